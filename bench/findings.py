"""Findings of ``inspect``, each held against a browser.

``python -m bench.findings PAGE...``: inspects the pages without a browser, then looks in Chromium,
on the screens that a finding names, whether it is so: what is fetched, where it stands, how large
it is shown, how high the page is without its pictures, which contrast its letters have there in the
pixels. Prints how many are so, for each fault and each word of certainty, and each that is not.
"""

from __future__ import annotations

import io
import json
import re
import subprocess
import sys
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote, urlsplit

import numpy as np
from PIL import Image

from brightcanvas.browsers.chromium import ChromiumWindow, chromium_window
from brightcanvas.colour.contrast import contrast, luminance
from brightcanvas.html.tree import line_of
from brightcanvas.inspecting.faults.oversized import MOST_SHOWN
from brightcanvas.page.aim import hit
from brightcanvas.page.reading import Page, path_of, read_page
from brightcanvas.page.site import pages_at
from brightcanvas.serving.opened_page import hosted
from brightcanvas.values.environments import environment_of
from brightcanvas.values.screens import ALL_DEVICES, Screen

LOOK = """(() => {
  const at = (selector) => { try { return document.querySelector(selector) } catch {} };
  const scrolled = [0, .25, .5, .75, 1].reduce((before, share) => before.then(() => {
    scrollTo({behavior: 'instant', top: share * document.documentElement.scrollHeight});
    return new Promise((done) => setTimeout(done, 120));
  }), Promise.resolve());
  const back = () => scrollTo({behavior: 'instant', top: 0});
  return scrolled.then(back).then(() => SELECTORS.map((selector) => {
    const it = at(selector);
    if (!it) return null;
    const box = it.getBoundingClientRect(), style = getComputedStyle(it);
    const shown = it.checkVisibility({opacityProperty: true, visibilityProperty: true});
    const painted = ['', '::before', '::after'].map((one) => getComputedStyle(it, one || null));
    return {
      top: box.top + scrollY, width: box.width, height: box.height,
      shown: shown && box.width > 1 && box.height > 1,
      natural: [it.naturalWidth || 0, it.naturalHeight || 0], src: it.currentSrc || '',
      poster: it.poster || '', size: style.backgroundSize,
      painted: painted.map((one) => one.backgroundImage).join(' '),
      fixed: painted.some((one) => one.backgroundAttachment.includes('fixed')),
      count: document.querySelectorAll(selector).length,
    };
  }));
})()"""

LETTERS = """((path, tag) => {
  const it = document.querySelector(path);
  const own = (one) => [...one.childNodes].some((child) =>
    child.nodeType === 3 && child.data.trim());
  const found = it ? [it, ...it.querySelectorAll(tag)].filter((one) =>
    one.localName === tag && own(one) && one.checkVisibility()) : [];
  return Math.min(60, found.length);
})"""

PLACE = """((path, tag, number) => {
  const it = document.querySelector(path);
  const own = (one) => [...one.childNodes].some((child) =>
    child.nodeType === 3 && child.data.trim());
  const one = [it, ...it.querySelectorAll(tag)].filter((one) =>
    one.localName === tag && own(one) && one.checkVisibility())[number];
  one.scrollIntoView({block: 'center', behavior: 'instant'});
  const box = one.getBoundingClientRect();
  const colour = getComputedStyle(one).color.match(/[\\d.]+/g).map(Number);
  return [box.left, box.top, box.right, box.bottom, ...colour.slice(0, 3), colour[3] ?? 1];
})"""


NAMED = re.compile(r"[\w./ %()-]+\.(jpe?g|png|gif|webp|svg|mp4|webm|js|css)\b", re.I)

BARE = """(() => {
  const files = /(-webkit-)?image-set\\([^]*?\\)\\)|url\\([^)]*\\)/g;
  const without = (text) => text.replace(files, 'none');
  const rules = [];
  document.querySelectorAll('*').forEach((one, number) => {
    if (['IMG', 'SOURCE'].includes(one.tagName)) {
      one.removeAttribute('srcset');
      one.removeAttribute('src');
    }
    for (const pseudo of ['', '::before', '::after']) {
      const image = getComputedStyle(one, pseudo || null).backgroundImage;
      if (!image.includes('url(')) continue;
      one.setAttribute('data-bare', number);
      rules.push(`[data-bare="${number}"]${pseudo} {` +
        `background-image: ${without(image)} !important; transition: none !important }`);
    }
  });
  const sheet = document.createElement('style');
  sheet.textContent = rules.join('');
  document.head.append(sheet);
})()"""
"""The page as it is while no picture has come."""


@dataclass(frozen=True)
class Finding:
    """One of ``inspect``, and where it is."""

    said: Mapping[str, Any]
    paths: tuple[str, ...]
    """Selectors for the very elements."""

    @property
    def fault(self) -> str:
        """Which kind."""
        return str(self.said["fault"])

    @property
    def file(self) -> str:
        """The file that it names, by its name alone."""
        named = NAMED.search(self.says)
        return unquote(named[0].rpartition("/")[2].strip()) if named else ""

    @property
    def says(self) -> str:
        """Its sentence."""
        return str(self.said["says"])


@dataclass(frozen=True)
class Sight:
    """What a screen shows."""

    screen: Screen
    looks: Mapping[str, Mapping[str, Any]]
    """By selector."""
    fetched: frozenset[str]
    """Names of files."""
    bare: Mapping[str, Mapping[str, Any]]
    """As ``looks``, without pictures."""
    letters: Mapping[tuple[str, str], float]
    """The least contrast there, by place and tag."""

    def of(self, finding: Finding) -> Iterator[Mapping[str, Any]]:
        """What is seen at the finding's places."""
        return (one for path in finding.paths if (one := self.looks.get(path)))


def findings_of(page: Page, name: str) -> list[Finding]:
    """What is found on a page, without a browser."""
    told = subprocess.run(
        [sys.executable, "-m", "brightcanvas", "inspect", name, "--json"],
        capture_output=True, check=False, timeout=300,
    )  # fmt: skip
    found = json.loads(told.stdout)["findings"]
    return [Finding(one, tuple(dict.fromkeys(_places(page, one)))) for one in found]


def _places(page: Page, said: Mapping[str, Any]) -> Iterator[str]:
    if str(said["file"]).endswith(".css"):
        yield from (path_of(page, one.etree_element) for one in hit(page, said["selector"]))
        return
    tag = str(said["selector"]).rpartition(">")[2].strip().partition(".")[0].partition("::")[0]
    for node in page.root.iter():
        if (
            isinstance(node.tag, str)
            and line_of(node) == said["line"]
            and node.tag in (tag, "body")
        ):
            yield path_of(page, node)


def _pixels(window: ChromiumWindow) -> Any:  # noqa: ANN401
    with Image.open(io.BytesIO(window.screenshot())) as picture:
        return np.asarray(picture.convert("RGB"))


def _least_contrast(window: ChromiumWindow, path: str, tag: str, density: float) -> float | None:
    """Of the first letters there, against what most of their box shows."""
    count = int(window.evaluate(f"{LETTERS}({json.dumps(path)}, {json.dumps(tag)})"))
    found = []
    for number in range(count):
        *box, red, green, blue, alpha = window.evaluate(
            f"{PLACE}({json.dumps(path)}, {json.dumps(tag)}, {number})"
        )
        left, top, right, bottom = (max(0, round(one * density)) for one in box)
        cut = _pixels(window)[top:bottom, left:right].reshape(-1, 3)
        if len(cut):
            colours, counts = np.unique(cut // 4, axis=0, return_counts=True)
            ground = colours[counts.argmax()] * 4 + 2
            letters = alpha * np.array([red, green, blue]) + (1 - alpha) * ground
            found.append(float(contrast(luminance(letters / 255), luminance(ground / 255))))
    return min(found, default=None)


def _named(urls: list[str]) -> frozenset[str]:
    return frozenset(unquote(urlsplit(one).path).rpartition("/")[2] for one in urls)


def sights(page: Page, findings: list[Finding]) -> Iterator[Sight]:
    """What each screen shows of them."""
    paths = list(dict.fromkeys(path for one in findings for path in one.paths))
    paths += [str(one.said["selector"]) for one in findings if one.fault == HITS_NOTHING]
    look = LOOK.replace("SELECTORS", json.dumps(paths))
    with chromium_window() as window, hosted(page.folder, window) as host:
        for screen in ALL_DEVICES:
            window.resize(environment_of(screen))
            host.asked()
            host.show(window)
            looks = dict(zip(paths, window.evaluate(look), strict=True))
            fetched = _named(host.asked())
            window.evaluate(BARE)
            bare = dict(zip(paths, window.evaluate(look), strict=True))
            wanted = {
                (path, _tag(one)) for one in findings if one.fault in OF_LETTERS
                for path in one.paths if screen.figures in one.said["screens"]
            }  # fmt: skip
            letters = {
                key: least for key in wanted
                if (least := _least_contrast(window, *key, screen.density)) is not None
            }  # fmt: skip
            yield Sight(screen, _there(looks), fetched, _there(bare), letters)


def _there(looks: Mapping[str, Any]) -> dict[str, Mapping[str, Any]]:
    return {path: one for path, one in looks.items() if one}


def _tag(finding: Finding) -> str:
    found = re.search(r"the (\w+) has a contrast", finding.says)
    return found[1] if found else ""


HITS_NOTHING = "rule that hits nothing"
OF_LETTERS = ("no colour behind", "copy can't be read on the colour")


def _is_fetched(finding: Finding, viewport_box: Sight) -> bool:
    return finding.file in viewport_box.fetched


def _is_missing(finding: Finding, viewport_box: Sight) -> bool:
    return (
        finding.file in viewport_box.fetched
    )  # it was asked for; that it isn't there is seen on disk


def _is_hidden(finding: Finding, viewport_box: Sight) -> bool:
    return _is_fetched(finding, viewport_box) and not any(
        one["shown"] for one in viewport_box.of(finding)
    )


def _is_above(finding: Finding, viewport_box: Sight) -> bool:
    return _is_fetched(finding, viewport_box) and any(
        one["shown"] and one["top"] < viewport_box.screen.viewport.height
        for one in viewport_box.of(finding)
    )


def _jumps(finding: Finding, viewport_box: Sight) -> bool:
    return any(
        abs(viewport_box.looks[path]["height"] - viewport_box.bare[path]["height"]) > 1
        for path in finding.paths if path in viewport_box.looks and path in viewport_box.bare
    )  # fmt: skip


def _is_loaded(finding: Finding, viewport_box: Sight) -> bool:
    return any(one["natural"][0] for one in viewport_box.of(finding))


def _is_wasteful(finding: Finding, viewport_box: Sight) -> bool:
    """Whether most of its px are too many."""
    said = re.search(r"\((\d+) x (\d+) px\)", finding.says)
    if said is None:
        return False
    width, height = (int(one) for one in said.groups())
    shown = [
        _area(one, width / height) * viewport_box.screen.density**2
        for one in viewport_box.of(finding)
    ]
    return max(shown, default=0) / (width * height) < MOST_SHOWN


def _area(look: Mapping[str, Any], aspect: float) -> float:
    """CSS px of an element that a picture covers, once."""
    width, height = look["width"], look["height"]
    if look["size"] == "contain":
        across = min(width, height * aspect)
        return float(across * across / aspect)
    return float(width * height)


def _is_faint(finding: Finding, viewport_box: Sight) -> bool:
    said = float((re.search(r"contrast of ([\d.]+):1", finding.says) or ["", "0"])[1])
    found = [viewport_box.letters.get((path, _tag(finding)), 99.0) for path in finding.paths]
    return min(found, default=99.0) <= max(1.15 * said, said + 0.15)


def _is_elsewhere(finding: Finding, viewport_box: Sight) -> bool:
    host = (re.search(r"comes from ([\w.-]+[\w])", finding.says) or ["", "?"])[1]
    return any(host in f"{one['src']} {one['painted']}" for one in viewport_box.of(finding))


def _has_no_still(finding: Finding, viewport_box: Sight) -> bool:
    return any(
        not one["poster"] and "url(" not in one["painted"] for one in viewport_box.of(finding)
    )


CHECKS: dict[str, Callable[[Finding, Sight], bool]] = {
    "old format": _is_fetched,
    "not there": _is_missing,
    "hidden, but fetched": _is_hidden,
    "found late": _is_above,
    "no dimensions": _jumps,
    "one size for all": _is_wasteful,
    "no colour behind": _is_faint,
    "copy can't be read on the colour": _is_faint,
    "picture on another host": _is_elsewhere,
    "clip without a still": _has_no_still,
    "heavy clip": _is_fetched,
    "clip on phones": _is_fetched,
    "fixed on phones": lambda finding, viewport_box: any(
        one["fixed"] for one in viewport_box.of(finding)
    ),
    HITS_NOTHING: lambda finding, viewport_box: (
        not viewport_box.looks.get(str(finding.said["selector"]), {"count": 0})["count"]
    ),
}


def verdict(finding: Finding, seen: list[Sight]) -> str:
    """Whether a browser agrees on one of the screens that are named."""
    check = CHECKS.get(finding.fault)
    is_far = check is _jumps and not any(_is_loaded(finding, one) for one in seen)
    if check is None or is_far:
        return "not checked"
    on = [one for one in seen if not finding.said["screens"] or one.screen.figures in
          finding.said["screens"]]  # fmt: skip
    return "so" if any(check(finding, one) for one in on) else "not so"


def checked(name: str) -> Iterator[tuple[Finding, str]]:
    """Each finding of a page, and what a browser says to it."""
    with pages_at(name, None) as (folder,):
        page = read_page(folder)
        found = findings_of(page, name)
        seen = list(sights(page, found))
        yield from ((one, verdict(one, seen)) for one in found)


def main() -> None:
    """Print the table, and what is not so."""
    counted: Counter[tuple[str, str, str]] = Counter()
    for name in sys.argv[1:]:
        for one, result in checked(name):
            counted[one.fault, str(one.said["sure"]), result] += 1
            if result == "not so":
                print(f"{name}:{one.said['line']} {one.said['selector']}: {one.says}", flush=True)
    for (fault, sure, result), count in sorted(counted.items()):
        print(f"{count:4} {fault}, {sure}: {result}")
    totals = Counter(result for (_, _, result), count in counted.items() for _ in range(count))
    print(f"in all: {dict(totals)}")


if __name__ == "__main__":
    main()
