"""Figures of the code itself: sizes of functions and modules, and what an extension touches.

python -m bench.figures            the figures
python -m bench.figures --lacking  also the public functions whose docstrings lack something
"""

from __future__ import annotations

import argparse
import ast
import io
import re
import statistics
import tokenize
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parent.parent
PACKAGE = ROOT / "src/brightcanvas"

EXTENSIONS = {
    "picture format": ("WebP", r"FileFormat\.WEBP|codecs\.webp|\bWEBP\b|\"webp\""),
    "clip format": ("VP9", r"ClipFormat\.VP9|clip_codecs\.vp9|\bVP9\b|\"vp9\""),
    "promise": ("calm", r"promises\.calm|promises import .*\bcalm\b|\"calm behind"),
    "form of the rules": ("hosted", r"forms\.hosted|HOSTED\b|HostedWish|HostedEntry|data-hosted"),
    "command": ("subject", r"commands\.subject|\"subject\", \"suggest|``bright-canvas subject"),
    "key of the brief": ("sharp", r"\bone_to_one\b|\bsharp:|read_sharp"),
}
"""One thing of each kind, and what names it in the code."""

Function = ast.FunctionDef | ast.AsyncFunctionDef


@dataclass(frozen=True)
class Measured:
    """One function."""

    place: str
    name: str
    lines: int
    """That hold code: without docstrings, comments and blanks."""
    parameters: int
    lacking: tuple[str, ...]
    """What its docstring doesn't say, where it is public."""


def code_lines(text: str) -> set[int]:
    """The numbers of the lines that hold a token of code."""
    found = set[int]()
    quiet = (
        tokenize.COMMENT, tokenize.NL, tokenize.NEWLINE, tokenize.INDENT, tokenize.DEDENT,
        tokenize.ENCODING, tokenize.ENDMARKER,
    )  # fmt: skip
    for token in tokenize.generate_tokens(io.StringIO(text).readline):
        if token.type not in quiet:
            found |= set(range(token.start[0], token.end[0] + 1))
    return found - _docstrings(ast.parse(text))


def _docstrings(tree: ast.Module) -> set[int]:
    """The lines of strings that stand alone."""
    alone = (one for one in ast.walk(tree) if isinstance(one, ast.Expr))
    strings = [one for one in alone if isinstance(one.value, ast.Constant)]
    return {line for one in strings for line in range(one.lineno, (one.end_lineno or 0) + 1)}


def functions_in(path: Path) -> Iterator[Measured]:
    """Every function of a module."""
    text = path.read_text(encoding="utf-8")
    code, tree = code_lines(text), ast.parse(text)
    for node in ast.walk(tree):
        if isinstance(node, Function):
            lines = sum(node.lineno <= line <= (node.end_lineno or 0) for line in code)
            yield Measured(
                f"{path.relative_to(ROOT)}:{node.lineno}", node.name, lines,
                len(_arguments(node)), tuple(_lacking(node)),
            )  # fmt: skip


def _arguments(node: Function) -> list[ast.arg]:
    every = [*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs]
    return [one for one in every if one.arg not in ("self", "cls")]


def _lacking(node: Function) -> Iterator[str]:
    """What a public docstring should say of numbers and errors, and doesn't."""
    told = ast.get_docstring(node)
    if node.name.startswith("_") or told is None:
        return
    numbers = [one.arg for one in _arguments(node) if _is_number(one)]
    if len(_arguments(node)) > 2 and numbers and not all(one in told for one in numbers):
        yield "numbers"
    raised = [one for one in ast.walk(node) if isinstance(one, ast.Raise) and one.exc]
    if raised and "Raises" not in told and "Error" not in told:
        yield "errors"


def _is_number(argument: ast.arg) -> bool:
    return isinstance(argument.annotation, ast.Name) and argument.annotation.id in ("int", "float")


def share(values: Sequence[int], percent: float) -> int:
    """The value below which so many of them lie."""
    return sorted(values)[min(len(values) - 1, int(len(values) * percent / 100))]


def naming(pattern: str) -> list[str]:
    """The modules of the package that a pattern is found in."""
    paths = sorted(PACKAGE.rglob("*.py"))
    hits = [one for one in paths if re.search(pattern, one.read_text(encoding="utf-8"))]
    return [str(one.relative_to(PACKAGE)) for one in hits]


def twice(names: Iterable[str]) -> list[str]:
    """The names that stand more than once, each with how often."""
    counts = Counter(names)
    return [f"{name} ({count})" for name, count in sorted(counts.items()) if count > 1]


def class_names(path: Path) -> Iterator[str]:
    """Of the public classes of a module."""
    for node in ast.parse(path.read_text(encoding="utf-8")).body:
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            yield node.name


def imported_by(path: Path) -> set[str]:
    """The modules of the package that a module imports, as they are written."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    found = [one for one in ast.walk(tree) if isinstance(one, ast.ImportFrom) and one.module]
    named = {f"{one.module}.{name.name}" for one in found for name in one.names}
    return {one.module or "" for one in found} | named


def _module(path: Path) -> str:
    return ".".join(path.relative_to(PACKAGE.parent).with_suffix("").parts)


def tell_names(modules: Sequence[Path]) -> None:
    """Print which names stand more than once, and how many modules have one importer."""
    classes = twice(name for path in modules for name in class_names(path))
    files = twice(path.stem for path in modules if path.stem != "__init__")
    print(f"class names that stand more than once: {len(classes)}: {', '.join(classes)}")
    print(f"file names that stand more than once: {len(files)}: {', '.join(files)}")
    importers = Counter(one for path in modules for one in imported_by(path))
    alone = [one for one in map(_module, modules) if importers[one] == 1]
    print(f"modules that one other imports: {len(alone)}")


REGISTRIES = ("cli/declarations", "commands", "formats/codecs", "inspecting/faults", "promises")
"""Rooms of which each module is one more of the same kind, however short it is."""


def _is_a_subject(path: Path) -> bool:
    room = path.relative_to(PACKAGE).parent.as_posix()
    return path.stem != "__init__" and room not in REGISTRIES


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--lacking", action="store_true")
    asked = parser.parse_args()
    modules = sorted(PACKAGE.rglob("*.py"))
    measured = [one for path in modules for one in functions_in(path)]
    lines = [one.lines for one in measured]
    lengths = [len(path.read_text(encoding="utf-8").splitlines()) for path in modules]
    code = sum(len(code_lines(path.read_text(encoding="utf-8"))) for path in modules)
    tests = sum(
        len(code_lines(path.read_text(encoding="utf-8"))) for path in (ROOT / "tests").glob("*.py")
    )
    print(f"{len(modules)} modules, {code} lines of code, median {statistics.median(lengths):.0f}")
    own = [one for path, one in zip(modules, lengths, strict=True) if _is_a_subject(path)]
    print(f"without members of registries: {len(own)}, median {statistics.median(own):.0f}")
    print(f"tests: {tests} lines, {tests / (code + tests):.0%} of all")
    print(
        f"{len(measured)} functions: median {statistics.median(lines):.0f} lines, 95th percentile"
        f" {share(lines, 95)}, longest {max(lines)}; above 50: {sum(one > 50 for one in lines)}"
    )
    parameters = [one.parameters for one in measured]
    print(f"parameters: median {statistics.median(parameters):.0f}, 95th {share(parameters, 95)}")
    tell_names(modules)
    lacking = [one for one in measured if one.lacking]
    print(f"public docstrings that don't say of their numbers or errors: {len(lacking)}")
    for one in lacking if asked.lacking else ():
        print(f"  {one.place} {one.name}: {', '.join(one.lacking)}")
    for kind, (example, pattern) in EXTENSIONS.items():
        found = naming(pattern)
        print(f"{kind} ({example}) is named in {len(found)}: {', '.join(found)}")


if __name__ == "__main__":
    main()
