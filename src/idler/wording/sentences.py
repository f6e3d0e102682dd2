"""What a module says to a person, found in its syntax, and the same module with a translation's words.

A sentence is a literal with a space in it, or a capital first letter, that is neither a docstring nor compared with anything;
or a word where only words are shown.
Where it has values in it (an f-string), each stands as a hole: "{axis.name} stands", or by its number where it is more than a
name: "{2} of travel". A translation may move a hole, or leave it out, and cannot ask for what the sentence has not.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Iterable, Iterator, Mapping, Set
from dataclasses import dataclass
from string import Formatter

_SAYS = re.compile(r"[^\W\d_]{2}.* | .*[^\W\d_]{2}|^[A-Z][a-z]|^[A-Z] ", re.DOTALL)
_FORMAL = re.compile(
    "|".join((
        r"^\s*[<%#.|]", r"[\\|{}]", r"\(\?", r"[^;];\S",  # markup, patterns, style sheets
        r"^\S*://\S*$", r"^[a-z-]+ --", r"^\w+=", r"^\w+ = \S+$", r"\n\w+ = ",  # addresses, commands, lines of files
        r"^\S+\.\w+$", r"^[A-Z][a-z]+[A-Z]\w*$", r"^(Hz|Nm)$",  # keys, names of classes, units
    ))
)  # fmt: skip
_HOLE = re.compile(r"\{[\w.]*(?:![rsa])?(?::[\w.+]*)?\}")  # of str.format
_NOT_SAID = {  # what is asked for, and never shown
    "TypeVar", "NewType", "cast", "compile", "encode", "fullmatch", "getattr", "match", "search", "setattr", "sub",
}  # fmt: skip
_SHOWN = {  # and which of its arguments
    "QAction": (0,), "QCheckBox": (0,), "QLabel": (0,), "QPushButton": (0,), "QRadioButton": (0,), "QTreeWidgetItem": (0,),
    "addItem": (0,), "addItems": (0,), "drawText": (-1,), "setHeaderLabels": (0,), "setHorizontalHeaderLabels": (0,),
    "setPlaceholderText": (0,), "setPrefix": (0,), "setSuffix": (0,), "setText": (0,), "setToolTip": (0,),
    "ChainLink": (0, 2), "Choice": (1,), "Rung": (0, 1, 3), "Segments": (0,), "label": (0,),
    "word": (0,),  # made for this: see core/words
}  # fmt: skip
_READ_AGAIN = {  # what is written there is read by programs: files, and what controllers keep and say of themselves
    "core.profile.objects", "core.profile.eds", "core.profile.document", "core.values.stage", "core.actions.text",
}  # fmt: skip
_SILENT = {ast.Name, ast.Load, ast.Store, ast.Import, ast.ImportFrom, ast.Pass, ast.arg}
_LITERALS = (ast.Constant, ast.List, ast.Set, ast.Tuple)
_ROWS = {"choice", "flag", "quantity", "text", "whole"}  # of the table: "group.name", and then its label


@dataclass(frozen=True)
class Said:
    """text: with its holes. holes: what stands in those that have a number. line: of the source, from 1."""

    text: str
    holes: Mapping[str, str]
    line: int
    made_up: bool  # of values, too


def subject(module: str) -> str:
    """What a module speaks of: its room of the core, its station, its procedure; nothing where nobody reads what it says."""
    _, *rooms = module.split(".")
    if not rooms or rooms[0] in ("bench", "wording") or ".".join(rooms) in _READ_AGAIN:
        return ""
    if rooms[:2] == ["app", "stations"]:
        rooms = rooms[1:]
    return rooms[1] if len(rooms) > 1 and rooms[0] in ("core", "stations", "procedures", "app") else rooms[0]


@dataclass(frozen=True)
class Heard:
    """apart: words of an enumeration's members, or of a dictionary's keys: two of them in the same words would be one."""

    sentences: tuple[Said, ...]
    apart: tuple[tuple[str, ...], ...]


def heard(source: str) -> Heard:
    """What a module says. Raises SyntaxError."""
    lists: list[ast.ClassDef | ast.Dict] = []
    said = sorted(_said(ast.parse(source), lists), key=lambda node: (node.lineno, node.col_offset))
    return Heard(tuple(map(_sentence, said)), tuple(_apart(lists, {id(node) for node in said})))


def _sentence(node: ast.JoinedStr | ast.Constant) -> Said:
    if isinstance(node, ast.Constant):
        return Said(str(node.value), {}, node.lineno, has_holes(str(node.value)))
    holes = _holes(node)
    told = {label: ast.unparse(hole.value) for label, hole in holes.items() if label.isdigit()}
    return Said(_text(node, holes), told, node.lineno, True)


def _apart(lists: Iterable[ast.ClassDef | ast.Dict], said: Set[int]) -> Iterator[tuple[str, ...]]:
    for node in lists:
        words = [each.value for each in _told_apart(node) if id(each) in said and isinstance(each, ast.Constant)]
        if len(words) > 1:
            yield tuple(str(word) for word in words)


def spoken(source: str, words: Mapping[str, str]) -> ast.Module | None:
    """The module with these words in place of its own; None where it says none of them. Raises SyntaxError."""
    tree = ast.parse(source)
    said = list(_said(tree, []))  # all of them, before any is another
    return tree if [node for node in said if _put(node, words)] else None


def unknown(text: str, translated: str) -> set[str]:
    """The holes that a translation asks for, and its sentence has not; what cannot be read as holes at all is one."""
    try:
        return {label for label, _ in _parts(translated) if label} - {label for label, _ in _parts(text) if label}
    except ValueError as why:
        return {str(why)}


def has_holes(text: str) -> bool:
    """Of a pattern that is filled elsewhere (str.format)."""
    try:
        return any(label for label, _ in _parts(text))
    except ValueError:
        return False


def _parts(text: str) -> Iterator[tuple[str, str]]:
    """Holes, and words. Raises ValueError."""
    for words, label, spec, how in Formatter().parse(text):
        if words:
            yield "", words
        if label is not None:
            yield (label if not spec and not how else f"{label}{how or ''}:{spec}") or "{}", ""


def _put(node: ast.JoinedStr | ast.Constant, words: Mapping[str, str]) -> bool:
    """Puts a translation in place of a sentence, where there is one, and it asks for no value that the sentence has not."""
    if isinstance(node, ast.Constant):
        translated = words.get(str(node.value))
        if translated is not None:
            node.value = translated
        return translated is not None
    holes = _holes(node)
    text = _text(node, holes)
    translated = words.get(text)
    if translated is None or unknown(text, translated):
        return False
    node.values = [
        holes[label] if label else ast.copy_location(ast.Constant(said), node) for label, said in _parts(translated)
    ]
    return True


def _holes(node: ast.JoinedStr) -> dict[str, ast.FormattedValue]:
    """By label, in their order."""
    found: dict[str, ast.FormattedValue] = {}
    for number, value in enumerate((each for each in node.values if isinstance(each, ast.FormattedValue)), start=1):
        label = ast.unparse(value.value)
        named = re.fullmatch(r"[A-Za-z]\w*(\.[A-Za-z]\w*)*", label) is not None
        found[label if named and label not in found else str(number)] = value
    return found


def _told_apart(node: ast.ClassDef | ast.Dict) -> Iterator[ast.AST | None]:
    if isinstance(node, ast.Dict):
        yield from node.keys
    elif any(ast.unparse(base).endswith("Enum") for base in node.bases):
        yield from (each.value for each in node.body if isinstance(each, ast.Assign))


def _text(node: ast.JoinedStr, holes: Mapping[str, ast.FormattedValue]) -> str:
    labels = {id(hole): label for label, hole in holes.items()}
    said = []
    for value in node.values:
        if isinstance(value, ast.FormattedValue):
            said.append(f"{{{labels[id(value)]}}}")
        elif isinstance(value, ast.Constant):
            said.append(str(value.value).replace("{", "{{").replace("}", "}}"))
    return "".join(said)


def _said(tree: ast.Module, lists: list[ast.ClassDef | ast.Dict]) -> Iterator[ast.JoinedStr | ast.Constant]:
    """lists: classes and dictionaries that are met on the way are put there."""
    pending: list[tuple[ast.AST, bool]] = [(tree, False)]  # and whether it is shown, although it is but a word
    while pending:
        node, shown = pending.pop()
        if type(node) in _SILENT:
            continue
        if isinstance(node, ast.ClassDef | ast.Dict):
            lists.append(node)
        if isinstance(node, ast.JoinedStr):
            said = _is_said("".join(str(v.value) if isinstance(v, ast.Constant) else "0" for v in node.values), shown)
            if said:
                yield node
            pending += [(value.value, said) for value in node.values if isinstance(value, ast.FormattedValue)]
        elif isinstance(node, ast.Constant):
            if isinstance(node.value, str) and _is_said(node.value, shown):
                yield node
        elif isinstance(node, ast.IfExp):
            pending += [(node.test, False), (node.body, shown), (node.orelse, shown)]
        elif isinstance(node, ast.Tuple | ast.List):
            pending += [(each, shown) for each in node.elts]
        else:
            words = _words_of(node) if isinstance(node, ast.Call) else []
            pending += [(each, each in words) for each in _heard(node)]


def _words_of(node: ast.Call) -> list[ast.AST]:
    """What is shown by a call that shows it whatever it is."""
    places = (1,) if _is_row(node) else _SHOWN.get(_name(node), ())
    return [node.args[at] for at in places if at < len(node.args)]


def _is_row(node: ast.Call) -> bool:
    """Of the table, which begins with "group.name"."""
    first = node.args[0] if node.args else None
    return (
        _name(node) in _ROWS
        and isinstance(first, ast.Constant)
        and re.fullmatch(r"\w+\.\w+", str(first.value)) is not None
    )


def _name(node: ast.Call) -> str:
    return node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")


def _heard(node: ast.AST) -> list[ast.AST]:
    """The parts of a node in which something may be said."""
    match node:
        case ast.Attribute(value):
            return [value]
        case ast.Compare() | ast.MatchValue():
            return [each for each in ast.iter_child_nodes(node) if not isinstance(each, _LITERALS)]
        case ast.Subscript(value, place):
            return [value] if isinstance(place, ast.Constant) else [value, place]
        case ast.keyword(value=value):
            return [] if node.arg == "procedure" else [value]
        case ast.AnnAssign(value=value):
            return [value] if value is not None else []
        case ast.Call() if _name(node) in _NOT_SAID:
            return [node.func]
        case ast.Call() if _is_row(node):
            usual = [*node.args[2:3]] if _name(node) == "choice" else []  # its choices; of others it is a value
            return [*node.args[1:2], *usual, *node.args[3:], *node.keywords]
        case ast.FunctionDef(body=body, args=args) | ast.AsyncFunctionDef(body=body, args=args):
            return [*node.decorator_list, args, *_but_docstring(body, kept=_is_command(node))]
        case ast.ClassDef(body=body):
            return [*node.decorator_list, *node.bases, *node.keywords, *_but_docstring(body)]
        case ast.Module(body=body):
            return _but_docstring(body)
    return list(ast.iter_child_nodes(node))


def _but_docstring(body: list[ast.stmt], *, kept: bool = False) -> list[ast.AST]:
    first = body[0] if body else None
    docstring = isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant)
    return [*body[1:]] if docstring and not kept else [*body]


def _is_command(node: ast.AST) -> bool:
    """Of the command line, whose docstring is its help."""
    return isinstance(node, ast.FunctionDef) and any(
        isinstance(each, ast.Call) and isinstance(each.func, ast.Attribute) and each.func.attr in ("command", "group")
        for each in node.decorator_list
    )


def _is_said(text: str, shown: bool) -> bool:
    says = re.search(r"[^\W\d_]{2}", text) if shown else _SAYS.search(text)
    return says is not None and _FORMAL.search(_HOLE.sub("0", text)) is None
