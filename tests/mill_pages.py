"""A small site of Marrowfen Mill that does everything right, and ways to spoil it."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from PIL import Image

from .conftest import noise


def _hint(name: str, media: str) -> str:
    return (
        f'<link rel="preload" as="image" href="img/mill-{name}.avif" type="image/avif"'
        f' media="{media}">'
    )


PHONE_HINT = _hint("phone", "(max-width: 639.98px)")
MIDDLE_HINT = _hint("middle", "(min-width: 640px) and (max-width: 1099.98px)") + "\n"
VIEWPORT = '<meta name="viewport" content="width=device-width">\n'
HINTS = "".join(
    f"{one}\n"
    for one in (
        PHONE_HINT,
        _hint("middle", "(min-width: 640px) and (max-width: 1099.98px)"),
        _hint("desk", "(min-width: 1100px)"),
    )
)

PAGE = """\
<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Marrowfen Mill</title>
HINTS<link rel="preload" as="font" href="fonts/fen.woff2" type="font/woff2" crossorigin>
<link rel="stylesheet" href="css/site.css">
</head>
<body>
<section class="hero" id="top">
<h1>Flour, bread and a bed</h1>
<p>The fen at your window.</p>
</section>
<section class="clip">
<video autoplay muted loop playsinline poster="img/sails.avif" width="640" height="360">
<source src="clip/sails.mp4" type="video/mp4" media="(min-width: 900px)">
</video>
<button type="button">Stop the sails</button>
</section>
<section class="bakery">
<h2>The bakery</h2>
<img src="img/loaf.avif" alt="A loaf" width="600" height="400" loading="lazy">
<p>Rye on Tuesdays.</p>
</section>
</body>
</html>
""".replace("HINTS", HINTS)

SHEET = """\
@font-face { font-family: Fen; src: url(../fonts/fen.woff2) format("woff2"); }
body { margin: 0; color: #20262b; background: #fff; font-family: system-ui, sans-serif; }
h1, h2 { font-family: Fen, serif; }
.hero { min-height: 420px; color: #fff; background: #1d2a33 center / cover no-repeat; }
@media (max-width: 639.98px) {
  .hero { background-image: url(../img/mill-phone.avif); }
}
@media (min-width: 640px) and (max-width: 1099.98px) {
  .hero { background-image: url(../img/mill-middle.avif); }
}
@media (min-width: 1100px) {
  .hero { background-image: url(../img/mill-desk.avif); }
}
.bakery { max-width: 600px; }
.clip { width: 640px; height: 360px; }
"""


def picture(width: int, height: int, kind: str = "AVIF", *, heavy: bool = False) -> bytes:
    """A picture of the fen: a soft sky, or with grain so that it weighs something."""
    if heavy:
        pixels = noise(width // 4, height // 4)
    else:
        down = np.linspace(40, 120, 32).astype(np.uint8)
        pixels = np.repeat(np.repeat(down[:, None, None], 32, 1), 3, 2)
    out = io.BytesIO()
    Image.fromarray(pixels).resize((width, height), Image.Resampling.BICUBIC).save(
        out, kind, quality=70
    )
    return out.getvalue()


def clip(folder: Path, *, loud: bool = False) -> bytes:
    """Two seconds of turning sails, with a sound track if wanted."""
    path = folder / "made.mp4"
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("libx264", rate=12)
        stream.width, stream.height, stream.pix_fmt = 640, 360, "yuv420p"
        sound: Any = container.add_stream("aac", rate=48000) if loud else None
        for number in range(24):
            shade = np.full((360, 640, 3), 60 + 4 * (number % 12), np.uint8)
            container.mux(stream.encode(av.VideoFrame.from_ndarray(shade, "rgb24")))
        container.mux(stream.encode())
        if sound:
            for number in range(20):
                quiet = av.AudioFrame.from_ndarray(
                    np.zeros((2, 1024), np.float32), "fltp", "stereo"
                )
                quiet.sample_rate, quiet.pts = 48000, number * 1024
                quiet.time_base = Fraction(1, 48000)
                container.mux(sound.encode(quiet))
            container.mux(sound.encode())
    return path.read_bytes()


@dataclass(frozen=True)
class Site:
    """The files of a site, by their paths."""

    page: str = PAGE
    sheet: str = SHEET
    files: dict[str, bytes] = field(default_factory=dict)

    def paged(self, old: str, new: str) -> Site:
        """With one place of the page changed."""
        assert self.page.count(old) == 1, old
        return replace(self, page=self.page.replace(old, new))

    def styled(self, old: str, new: str) -> Site:
        """With one place of the style sheet changed."""
        assert self.sheet.count(old) == 1, old
        return replace(self, sheet=self.sheet.replace(old, new))

    def filed(self, name: str, content: bytes) -> Site:
        """With another file."""
        return replace(self, files={**self.files, name: content})

    def write(self, folder: Path) -> Path:
        """Put it into a folder; the page's path."""
        everything = {**self.files, "index.html": self.page.encode()}
        everything["css/site.css"] = self.sheet.encode()
        for name, content in everything.items():
            path = folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(content)
        return folder / "index.html"


def right(folder: Path) -> Site:
    """The site that does everything right."""
    return Site(
        files={
            "img/mill-phone.avif": picture(780, 840),
            "img/mill-middle.avif": picture(1688, 840),
            "img/mill-desk.avif": picture(2560, 840),
            "img/sails.avif": picture(640, 360),
            "img/loaf.avif": picture(1200, 800),
            "fonts/fen.woff2": b"wOF2" + bytes(6000),
            "clip/sails.mp4": clip(folder),
        }
    )


Spoil = Callable[[Site, Path], Site]


@dataclass(frozen=True)
class Planted:
    """One way to spoil the site, and what has to be told of it."""

    name: str
    spoil: Spoil
    fault: str
    file: str
    mark: str
    """A text on the line that has to be named."""


LOAF = '<img src="img/loaf.avif" alt="A loaf" width="600" height="400" loading="lazy">'
VIDEO = '<video autoplay muted loop playsinline poster="img/sails.avif" width="640" height="360">'
SOURCE = '<source src="clip/sails.mp4" type="video/mp4" media="(min-width: 900px)">'
BUTTON = '<button type="button">Stop the sails</button>\n'
FONT_HINT = '<link rel="preload" as="font" href="fonts/fen.woff2" type="font/woff2" crossorigin>'
PICTURES = SHEET[SHEET.index("@media") : SHEET.index(".bakery")]
WIDE = "  .hero { background-image: url(../img/mill-desk.avif); }\n"


def _eager(site: Site) -> Site:
    return site.paged(' loading="lazy">', ">")


def _one_picture(site: Site, name: str) -> Site:
    """One background for all windows, hinted rightly."""
    hint = f'<link rel="preload" as="image" href="img/{name}">\n'
    rule = f".hero {{ background-image: url(../img/{name}); }}\n"
    return site.paged(HINTS, hint).styled(PICTURES, rule)


def planted() -> Iterable[Planted]:
    """Each fault by itself."""
    page, sheet = "index.html", "css/site.css"

    def hidden(way: str) -> Spoil:
        spoilt = LOAF.replace(' loading="lazy"', way)
        return lambda site, _: site.paged(LOAF, spoilt).filed("img/loaf.avif", heavy_small)

    heavy_small = picture(600, 400, heavy=True)
    yield Planted(
        "hidden on phones by a class",
        lambda site, _: hidden(' class="wide"')(
            site.styled(
                ".clip {", "@media (max-width: 1200px) { .wide { display: none } }\n.clip {"
            ),
            _,
        ),
        "hidden, but fetched",
        page,
        "loaf.avif",
    )
    yield Planted(
        "hidden by its style",
        hidden(' style="display: none"'),
        "hidden, but fetched",
        page,
        "loaf.avif",
    )
    yield Planted(
        "hidden by its attribute", hidden(" hidden"), "hidden, but fetched", page, "loaf.avif"
    )
    yield Planted(
        "hidden poster",
        lambda site, _: (
            site.paged(SOURCE + "\n", "")
            .paged("autoplay muted loop playsinline", 'preload="none"')
            .styled(".clip {", "video { display: none }\n.clip {")
            .filed("img/sails.avif", picture(640, 360, heavy=True))
        ),
        "hidden, but fetched",
        page,
        "<video",
    )
    yield Planted(
        "hidden clip",
        lambda site, _: site.styled(".clip {", "video { display: none }\n.clip {").paged(
            ' poster="img/sails.avif"', ""
        ),
        "hidden, but fetched",
        page,
        "<video",
    )
    yield Planted(
        "one background for all",
        lambda site, _: _one_picture(site, "all.avif").filed(
            "img/all.avif", picture(2560, 1280, heavy=True)
        ),
        "one size for all",
        sheet,
        "all.avif",
    )
    yield Planted(
        "one picture for all",
        lambda site, _: _eager(site).filed("img/loaf.avif", picture(2400, 1600, heavy=True)),
        "one size for all",
        page,
        "loaf.avif",
    )
    yield Planted(
        "no sizes",
        lambda site, _: site.paged(
            LOAF,
            (
                '<img srcset="img/loaf.avif 600w, img/large.avif 2400w" src="img/loaf.avif"'
                ' alt="A loaf" width="600" height="400">'
            ),
        ).filed("img/large.avif", picture(2400, 1600, heavy=True)),
        "needless pixels",
        page,
        "large.avif",
    )
    yield Planted(
        "an old background",
        lambda site, _: (
            site.filed("img/mill-desk.jpg", picture(1920, 600, "JPEG", heavy=True))
            .styled("mill-desk.avif", "mill-desk.jpg")
            .paged('img/mill-desk.avif" type="image/avif"', 'img/mill-desk.jpg" type="image/jpeg"')
        ),
        "old format",
        page,
        'class="hero"',
    )
    yield Planted(
        "an old picture",
        lambda site, _: site.paged("loaf.avif", "loaf.png").filed(
            "img/loaf.png", picture(600, 400, "PNG", heavy=True)
        ),
        "old format",
        page,
        "loaf.png",
    )
    yield Planted(
        "a hint before the viewport tag",
        lambda site, _: site.paged(MIDDLE_HINT, "").paged(
            VIEWPORT, VIEWPORT.replace("<meta", f"{MIDDLE_HINT}<meta")
        ),
        "hint before the viewport tag",
        page,
        "mill-middle.avif",
    )
    yield Planted(
        "a hint that nothing shows",
        lambda site, _: site.paged(
            FONT_HINT, FONT_HINT + '\n<link rel="preload" as="image" href="img/old.avif">'
        ).filed("img/old.avif", heavy_small),
        "hint in vain",
        page,
        "old.avif",
    )
    yield Planted(
        "a hint for each format",
        lambda site, _: site.paged(
            FONT_HINT,
            FONT_HINT + '\n<link rel="preload" as="image" href="img/mill-phone.webp"'
            ' type="image/webp" media="(max-width: 639.98px)">',
        ).filed("img/mill-phone.webp", picture(780, 840, "WEBP", heavy=True)),
        "hint in vain",
        page,
        "mill-phone.webp",
    )
    yield Planted(
        "a hint without a condition",
        lambda site, _: site.paged(
            PHONE_HINT, '<link rel="preload" as="image" href="img/mill-phone.avif">'
        ),
        "hint in vain",
        page,
        "mill-phone.avif",
    )
    yield Planted(
        "a hint twice",
        lambda site, _: site.paged(
            FONT_HINT, FONT_HINT + "\n" + PHONE_HINT.replace("<link", '<link title="again"')
        ),
        "double hint",
        page,
        "again",
    )
    yield Planted(
        "hints that come late",
        lambda site, _: (
            _one_picture(site.styled(".bakery", PADDING_CSS + "\n.bakery"), "all.avif")
            .filed("img/all.avif", picture(1600, 500, heavy=True))
            .paged('<link rel="preload" as="image" href="img/all.avif">\n', "")
            .paged(
                "</body>",
                f"<!-- {'fen and mill and sky ' * 4000} -->\n"
                '<link rel="preload" as="image" href="img/all.avif">\n</body>',
            )
        ),
        "late hint",
        page,
        "all.avif",
    )
    yield Planted(
        "a hint of the wrong type",
        lambda site, _: site.paged(PHONE_HINT, PHONE_HINT.replace("image/avif", "image/webp")),
        "hint that is wrong",
        page,
        "mill-phone.avif",
    )
    yield Planted(
        "a hint without as",
        lambda site, _: site.paged(PHONE_HINT, PHONE_HINT.replace(' as="image"', "")),
        "hint that is wrong",
        page,
        "mill-phone.avif",
    )
    yield Planted(
        "a font hint without crossorigin",
        lambda site, _: site.paged(" crossorigin", ""),
        "hint that is wrong",
        page,
        "fen.woff2",
    )
    yield Planted(
        "a font that phones don't show",
        lambda site, _: site.styled(
            "h1, h2 { font-family: Fen, serif; }",
            "@media (min-width: 900px) { h1, h2 { font-family: Fen, serif; } }",
        ),
        "hint in vain",
        page,
        "fen.woff2",
    )
    yield Planted(
        "a background found late",
        lambda site, _: (
            site.paged(HINTS, "")
            .filed("img/mill-desk.avif", picture(1920, 600, heavy=True))
            .filed("css/mill.css", PICTURES.encode())
            .filed("css/more.css", b'@import "mill.css";')
            .styled("@font-face", '@import "more.css";\n@font-face')
            .styled("background: #1d2a33 center / cover no-repeat", LONGHANDS)
            .styled(PICTURES, "")
        ),
        "found late",
        "css/mill.css",
        "mill-",
    )
    yield Planted(
        "no colour behind",
        lambda site, _: site.styled(
            "background: #1d2a33 center / cover no-repeat", "background: center / cover no-repeat"
        ),
        "no colour behind",
        sheet,
        "mill-",
    )
    yield Planted(
        "copy on a colour like its own",
        lambda site, _: site.styled("background: #1d2a33", "background: #c9d0d6"),
        "copy can't be read on the colour",
        sheet,
        "#c9d0d6",
    )
    yield Planted(
        "a clip without a still",
        lambda site, _: site.paged(' poster="img/sails.avif"', ""),
        "clip without a still",
        page,
        "<video",
    )
    yield Planted(
        "a clip that isn't muted",
        lambda site, _: site.paged("autoplay muted", "autoplay"),
        "clip with sound",
        page,
        "<video",
    )
    yield Planted(
        "a clip with a sound track",
        lambda site, folder: site.filed("clip/sails.mp4", clip(folder, loud=True)),
        "clip with sound",
        page,
        "<video",
    )
    yield Planted(
        "a clip without a pause",
        lambda site, _: site.paged(BUTTON, ""),
        "clip without a pause",
        page,
        "<video",
    )
    yield Planted(
        "a clip with a button that sends a form",
        lambda site, _: site.paged(BUTTON, "<form><button>Book a room</button></form>"),
        "clip without a pause",
        page,
        "<video",
    )
    yield Planted(
        "a clip on phones",
        lambda site, _: site.paged(' media="(min-width: 900px)"', ""),
        "clip on phones",
        page,
        "<video",
    )
    yield Planted(
        "a rule that hits nothing",
        lambda site, _: site.styled(
            ".clip {", ".guestroom { background-image: url(../img/mill-phone.avif) }\n.clip {"
        ),
        "rule that hits nothing",
        sheet,
        ".guestroom",
    )
    yield Planted(
        "a class for an id",
        lambda site, _: site.styled(
            ".clip {", ".top { background-image: url(../img/mill-phone.avif) }\n.clip {"
        ),
        "class for an id",
        sheet,
        ".top",
    )
    yield Planted(
        "two rules for one element",
        lambda site, _: (
            site.styled(
                "body {",
                "section.hero.hero { background-image: url(../img/mill-desk.avif) }\nbody {",
            )
            .styled(PICTURES, ".hero { background-image: url(../img/mill-middle.avif) }\n")
            .paged(HINTS, '<link rel="preload" as="image" href="img/mill-desk.avif">\n')
        ),
        "two rules for one element",
        sheet,
        "mill-middle.avif",
    )
    yield Planted(
        "an inline style that wins",
        lambda site, _: (
            site.paged(
                '<section class="hero" id="top">',
                '<section class="hero" id="top" style="background-image: url(img/mill-desk.avif)">',
            )
            .styled(PICTURES, ".hero { background-image: url(../img/mill-middle.avif) }\n")
            .paged(HINTS, '<link rel="preload" as="image" href="img/mill-desk.avif">\n')
        ),
        "inline style wins",
        sheet,
        "mill-middle.avif",
    )
    yield Planted(
        "fixed on phones",
        lambda site, _: site.styled("no-repeat; }", "no-repeat fixed; }"),
        "fixed on phones",
        sheet,
        "fixed; }",
    )
    yield Planted(
        "a gap",
        lambda site, _: site.styled("@media (max-width: 639.98px)", "@media (max-width: 639px)"),
        "gap between two rules",
        sheet,
        "mill-phone.avif",
    )
    yield Planted(
        "no dimensions",
        lambda site, _: site.paged(' width="600" height="400"', ""),
        "no dimensions",
        page,
        "loaf.avif",
    )
    yield Planted(
        "a file that isn't there",
        lambda site, _: _eager(site).paged("loaf.avif", "loaves.avif"),
        "not there",
        page,
        "loaves.avif",
    )


LONGHANDS = "background-color: #1d2a33; background-size: cover"

PADDING_CSS = "\n".join(
    f".no-{number} {{ color: #20262b; padding: {number}px }}" for number in range(900)
)
