"""How flat the demo's sources are, by the measure that decides between formats."""

from __future__ import annotations

from pathlib import Path

from brightcanvas.formats.clips.clip_reading import read_frame
from brightcanvas.formats.loaded import kind_of
from brightcanvas.formats.pictures.picture_reading import read_picture
from brightcanvas.quality.pictures.content import common_share, even_share, is_flat_art

SOURCES = Path(__file__).parent.parent / "src/brightcanvas/demo/marrowfen-mill/sources"


def main() -> None:
    """Print one line for each source."""
    for path in sorted(SOURCES.iterdir()):
        picture = read_frame(path, 1.5) if kind_of(path).is_clip else read_picture(path)
        kind = "flat art" if is_flat_art(picture) else "photograph"
        shares = f"even areas {even_share(picture):.2f}, common colours {common_share(picture):.2f}"
        print(f"{path.name:20} {kind:10} {shares}")


if __name__ == "__main__":
    main()
