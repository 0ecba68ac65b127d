"""What somebody can read: strings of the rulebook, of the code's sentences and of the interface, and their words."""

from __future__ import annotations

import ast
import json
import re
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[2]
# In the interface what stands in quotes, in backticks or between tags is read; `{...}` is not.
OF_INTERFACE = re.compile(
    r'"((?:[^"\\\n]|\\.)*)"|`((?:[^`\\]|\\.)*)`|[>}]([^<>{}=;()"|?]*[A-Za-z][^<>{}=;()"|?]*)[<{]', re.DOTALL
)
NOT_READ = re.compile(
    r"/\*.*?\*/|^\s*//.*?$|^import .*?;$|^(export )?interface .*?$", re.DOTALL | re.MULTILINE
)
# Names of requests, in the table of who may make them.
REQUEST = re.compile(r"(GET|POST|PUT|PATCH|DELETE) ")


def readable_texts() -> Iterator[tuple[str, str]]:
    """Yield each text with the file that it stands in."""
    for folder, ending, texts in (
        ("mallet", "toml", _of_toml),
        ("mallet", "py", _of_python),
        ("practice", "py", _of_python),
        ("web/src", "ts*", _of_interface),
        ("examples/worked", "json", _of_worked),
    ):
        for path in sorted((ROOT / folder).rglob(f"*.{ending}")):
            if "migrations" in path.parts or ".test." in path.name or path.name == "generated.ts":
                continue
            for text in texts(path.read_text()):
                if _is_read(text):
                    yield str(path.relative_to(ROOT)), " ".join(text.split())


def _of_worked(source: str) -> Iterator[str]:
    said = json.loads(source)
    yield from (said["title"], said["authority"])


def _is_read(text: str) -> bool:
    """Tell a text from a name of the code: it has a space or a capital letter first."""
    bare = text.strip()
    return (
        bool(re.search("[A-Za-z]{2}", bare))
        and (" " in bare or bare[:1].isupper())
        and not REQUEST.match(bare)
    )


def _of_toml(source: str) -> Iterator[str]:
    def strings(value: Any) -> Iterator[str]:
        if isinstance(value, str):
            yield value
        elif isinstance(value, dict | list):
            for one in value.values() if isinstance(value, dict) else value:
                yield from strings(one)

    yield from strings(tomllib.loads(source))


def _of_python(source: str) -> Iterator[str]:
    tree = ast.parse(source)
    # Docstrings are for those who read the code.
    apart = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            apart |= {id(part) for part in node.values}
            yield "".join(part.value if isinstance(part, ast.Constant) else "{}" for part in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in apart:
            yield node.value


def _of_interface(source: str) -> Iterator[str]:
    for found in OF_INTERFACE.finditer(NOT_READ.sub("", source)):
        text = next(text for text in found.groups() if text is not None)
        # Between tags a single word is read too.
        yield text.strip().capitalize() if found.group(3) else re.sub(r"\$\{[^}]*\}", "{}", text)
