"""How a query was read, in plain words."""

from pale_harbor.core.query.nodes import Both, Either, Group, InField, Node, Not, QueryWord, Quoted, Range
from pale_harbor.core.query.parser import ParsedQuery


def how_it_was_read(query: ParsedQuery) -> str:
    """The query back in words; empty where it is plain words only and nothing needs saying.

    >>> from pale_harbor.core.query.parser import parse_query
    >>> how_it_was_read(parse_query("harpoon -gun"))
    'harpoon, without gun'
    """
    if all(map(_is_plain, query.root.nodes)):
        return ""
    return _side_by_side(query.root.nodes)


def _side_by_side(nodes: tuple[Node, ...]) -> str:
    """Plain words run on; everything else is set off by a comma."""
    said = ""
    before: Node | None = None
    for node in nodes:
        runs_on = _is_plain(node) and before is not None and _is_plain(before)
        said += ("" if before is None else " " if runs_on else ", ") + _in_words(node)
        before = node
    return said


def _is_plain(node: Node) -> bool:
    return isinstance(node, QueryWord) and not (node.begins or node.ends)


def _in_words(node: Node) -> str:
    match node:
        case QueryWord(text=text, begins=True):
            return f"words beginning with {text}"
        case QueryWord(text=text, ends=True):
            return f"words ending in {text}"
        case QueryWord(text=text):
            return text
        case Quoted(text=text, whole=True):
            return f"the whole value “{text.strip()}”"
        case Quoted(text):
            return f"exactly “{text.strip()}”"
        case Range(field=field, low=low, high=high):
            if low is None:
                return f"{field} up to {high}"
            return f"{field} from {low}" + (f" to {high}" if high is not None else " on")
        case InField(field, inner):
            return f"{field}: {_in_words(inner)}"
        case Not(inner):
            return f"without {_in_words(inner)}"
        case Both(nodes):
            return " and ".join(map(_in_words, nodes))
        case Either(nodes):
            return "(" + " or ".join(map(_in_words, nodes)) + ")"
        case Group(nodes):
            return f"({_side_by_side(nodes)})"
