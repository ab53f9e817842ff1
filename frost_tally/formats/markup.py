"""XML from outside: without document types, and so without entities and what they could reach or blow up."""

from typing import Any
from xml.parsers import expat

from lxml import etree

from ..core.errors import Refusal


class _Begun(Exception):
    """The first element was reached."""


def document(content: bytes, root: str) -> Any:
    """The root element of a file. Raises: Refusal, with line and column for what is no sound XML."""
    _no_document_type(content)
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, remove_comments=True, remove_pis=True)
    try:
        found = etree.fromstring(content, parser)
    except etree.XMLSyntaxError as problem:
        line, column = problem.position
        raise Refusal(f"The file is not sound XML: line {line}, column {column}.", "file") from None
    if local(found) != root:
        raise Refusal(f"The file begins with “{local(found)[:30]}”, not with “{root}”.", "file")
    return found


def local(element: Any) -> str:
    """The name of an element without its namespace."""
    return str(etree.QName(element).localname)


def within(element: Any, path: str) -> list[Any]:
    """What is found along a path of names in the element's own namespace, such as `point/time/text()`."""
    found: list[Any] = _asked(element, path, "{}")
    return found


def count_within(element: Any, path: str) -> int:
    """How many `within` finds."""
    return int(_asked(element, path, "count({})"))


def _asked(element: Any, path: str, around: str) -> Any:
    space = etree.QName(element).namespace
    names = [each if each.startswith(("@", "text(")) or not space else f"own:{each}" for each in path.split("/")]
    return element.xpath(around.format("/".join(names)), namespaces={"own": space} if space else None, smart_strings=False)


def _no_document_type(content: bytes) -> None:
    """Raises: Refusal for a document type before the first element, the only place for one."""

    def declared(*_: object) -> None:
        raise Refusal("The file brings document types or entities of its own; these are not read.", "file")

    def begun(*_: object) -> None:
        raise _Begun

    parser = expat.ParserCreate()
    parser.StartDoctypeDeclHandler, parser.StartElementHandler = declared, begun
    try:
        parser.Parse(content, True)
    except _Begun:
        return
    except expat.ExpatError as problem:
        raise Refusal(f"The file is not sound XML: line {problem.lineno}, column {problem.offset}.", "file") from None
    except Refusal:
        raise
    except (LookupError, ValueError):
        raise Refusal("The file names an encoding that is not read. Save it in UTF-8.", "file") from None
