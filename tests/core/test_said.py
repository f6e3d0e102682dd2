"""What the core says of made-up input, as it was written down when somebody last looked at it.

Whatever is changed in the core, on purpose or not, is seen here by the name of the function that says something else now.
Where it was on purpose: `python -m tests.core.test_said --write`, and look at the difference before it is committed.
"""

from __future__ import annotations

import hashlib
import importlib
import inspect
import json
import pkgutil
import re
import sys
import unittest
import warnings
from collections.abc import Callable, Iterator
from functools import cached_property
from pathlib import Path
from typing import Any

import idler.core
from tests.core.made_up import Beyond, MadeUp, shown

SAID = Path(__file__).with_name("said.json")
# Of each callable, by what its name begins with: some look at a whole machine, what belongs to a class is quick, what tells
# of stops has many ways.
CALLS = {
    r"(report|exchange|controller|profile\.(eds|dictionary|objects|document|pdo)|proof\.belongings)": 6, r"incident": 100,
    r".*\.[A-Z]\w*\.": 50, r"(travel|homing|mechanics|wiring)": 30, r"": 16,
}  # fmt: skip
# A program is read into arrays as long as it is: made-up lengths would take all memory. It has properties of its own.
LEFT_OUT = r"idler\.core\.program\.(?!choices|language|told)"
EXAMPLE = 110  # letters that are kept of the first call


def callables() -> Iterator[tuple[str, Callable[[MadeUp], Any]]]:
    """Every public function, property and method of the core, by name, with what calls it once."""
    for found in pkgutil.walk_packages(idler.core.__path__, "idler.core."):
        if re.match(LEFT_OUT, found.name):
            continue
        module = importlib.import_module(found.name)
        for name, thing in sorted(vars(module).items()):
            if name.startswith("_") or getattr(thing, "__module__", "") != module.__name__:
                continue
            full = f"{module.__name__.removeprefix('idler.core.')}.{name}"
            if inspect.isfunction(thing):
                yield full, lambda made, thing=thing: thing(**made.arguments(thing))
            elif inspect.isclass(thing):
                yield from _of_class(full, thing)


def _of_class(full: str, kind: type) -> Iterator[tuple[str, Callable[[MadeUp], Any]]]:
    for name, thing in sorted(vars(kind).items()):
        if name.startswith("_"):
            continue
        if isinstance(thing, property | cached_property):
            yield f"{full}.{name}", lambda made, name=name: getattr(made.of(kind), name)
        elif inspect.isfunction(thing):

            def call(made: MadeUp, name: str = name, thing: Any = thing) -> Any:
                return getattr(made.of(kind), name)(**made.arguments(thing))

            yield f"{full}.{name}", call


def said_by(name: str, call: Callable[[MadeUp], Any]) -> str:
    """A digest of all calls, and the first of them; "" where nothing can be made up for it."""
    digest, first = hashlib.sha1(), ""
    for case in range(next(calls for begin, calls in CALLS.items() if re.match(begin, name))):
        try:
            text = shown(call(MadeUp(f"{name} {case}")))
        except Beyond:
            return ""
        except Exception as why:
            text = f"{type(why).__name__}: {why}"
        first = first or text
        digest.update(text.encode())
    return f"{digest.hexdigest()[:10]} {first[:EXAMPLE]}"


def said() -> dict[str, str]:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        told = {name: said_by(name, call) for name, call in callables()}
    return {name: words for name, words in told.items() if words}


class Said(unittest.TestCase):
    maxDiff = 4000

    def test_the_core_says_what_it_said(self) -> None:
        kept = json.loads(SAID.read_text("utf-8"))
        now = said()
        changed = {name: (kept.get(name, "nothing"), now.get(name, "nothing")) for name in kept | now}
        different = {name: pair for name, pair in changed.items() if pair[0] != pair[1]}
        self.assertEqual(different, {}, "on purpose? python -m tests.core.test_said --write")


if __name__ == "__main__" and "--write" in sys.argv:
    SAID.write_text(json.dumps(said(), indent=0, ensure_ascii=False) + "\n", "utf-8")
