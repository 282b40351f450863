"""The recipe as XMP: put into what a source says of itself, and read out of any file.

XMP part 1 (ISO 16684-1:2019) for the packet and its RDF, part 2 for the media management schema.
"""

from __future__ import annotations

import hashlib
import xml.etree.ElementTree as ET

from wamplex.core.base.bounded_parsing import parse_xml
from wamplex.core.base.errors import RecipeError
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.origin import FileOrigin

OURS = "urn:wamplex:recipe:1.0:"
RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
_META, _XMP = "adobe:ns:meta/", "http://ns.adobe.com/xap/1.0/"
_MM, _REF = "http://ns.adobe.com/xap/1.0/mm/", "http://ns.adobe.com/xap/1.0/sType/ResourceRef#"
_PREFIXES = {"x": _META, "rdf": RDF, "xmp": _XMP, "xmpMM": _MM, "stRef": _REF, "wamplex": OURS}
# Orientation, size and history are those of the source's pixels, which the result no longer has.
_OF_THE_SOURCE = (
    f"{{{_MM}}}DocumentID",
    f"{{{_MM}}}InstanceID",
    f"{{{_MM}}}DerivedFrom",
    f"{{{_MM}}}History",
    f"{{{_XMP}}}CreatorTool",
    "{http://ns.adobe.com/tiff/1.0/}Orientation",
    "{http://ns.adobe.com/tiff/1.0/}ImageWidth",
    "{http://ns.adobe.com/tiff/1.0/}ImageLength",
    "{http://ns.adobe.com/exif/1.0/}PixelXDimension",
    "{http://ns.adobe.com/exif/1.0/}PixelYDimension",
)
_BEGIN = b'<?xpacket begin="\xef\xbb\xbf" id="W5M0MpCehiHzreSzNTczkc9d"?>\n'
_END = b'\n<?xpacket end="r"?>'
_LARGEST_BYTES = 10_000_000


def add_origin(source_xmp: bytes | None, origin: FileOrigin) -> bytes:
    """A packet that says what the source said, and how the file was made.

    Parameters
    ----------
    source_xmp : XMP of the source, None where it has none
    origin : how the file was made

    Returns
    -------
    The same bytes for the same source, recipe, program and provider.
    """
    root, rdf = rdf_of(source_xmp)
    for description in list(rdf):
        _forget(description)
        if len(description) == 0 and set(description.attrib) <= {f"{{{RDF}}}about"}:
            rdf.remove(description)
    rdf.append(_description(origin))
    return write_packet(root)


def rdf_of(xmp: bytes | None) -> tuple[ET.Element, ET.Element]:
    """The tree of a packet and its RDF, of a new packet where there is none.

    Parameters
    ----------
    xmp : XMP packet, None where there is none

    Returns
    -------
    Root and RDF element.
    """
    for prefix, space in _PREFIXES.items():
        ET.register_namespace(prefix, space)
    root = parsed_packet(xmp)
    if root is None:
        root = ET.Element(f"{{{_META}}}xmpmeta")
        ET.SubElement(root, f"{{{RDF}}}RDF")
    rdf = root if root.tag == f"{{{RDF}}}RDF" else root.find(f"{{{RDF}}}RDF")
    assert rdf is not None
    return root, rdf


def write_packet(root: ET.Element) -> bytes:
    """Write a packet.

    Parameters
    ----------
    root : its tree

    Returns
    -------
    The packet.
    """
    body: bytes = ET.tostring(root, encoding="utf-8")
    return _BEGIN + body + _END


def read_document_id(xmp: bytes | None) -> str | None:
    """Document identifier in an XMP packet.

    Parameters
    ----------
    xmp : XMP packet, None where there is none

    Returns
    -------
    Identifier; None where there is none.
    """
    return read_property(xmp, f"{{{_MM}}}DocumentID")


def read_property(xmp: bytes | None, name: str) -> str | None:
    """Simple property in an XMP packet: an attribute, an element's text or its address.

    Parameters
    ----------
    xmp : XMP packet, None where there is none
    name : the property, with its namespace in braces

    Returns
    -------
    Value without blanks around it; None where there is none.
    """
    root = parsed_packet(xmp)
    if root is None:
        return None
    for description in root.iter(f"{{{RDF}}}Description"):
        element = description.find(name)
        address = None if element is None else element.get(f"{{{RDF}}}resource") or element.text
        if text := description.get(name) or address:
            return text.strip()
    return None


def read_instance_id(xmp: bytes | None) -> str | None:
    """Instance identifier in an XMP packet.

    Parameters
    ----------
    xmp : XMP packet, None where there is none

    Returns
    -------
    Identifier; None where there is none.
    """
    return read_property(xmp, f"{{{_MM}}}InstanceID")


def parse_recipe(xmp: bytes | None) -> tuple[Recipe, dict[str, str]] | None:
    """Parse the recipe in an XMP packet.

    Parameters
    ----------
    xmp : XMP packet, None where there is none

    Returns
    -------
    The recipe and the other properties of its origin; None where there is none.

    Raises
    ------
    RecipeError : when there is one that cannot be used, or that was changed since it was written
    """
    root = parsed_packet(xmp)
    if root is None:
        return None
    attributes: dict[str, str] = {}
    for description in root.iter(f"{{{RDF}}}Description"):
        attributes |= {k.removeprefix(f"{{{OURS}}}"): v for k, v in description.attrib.items() if OURS in k}
        attributes |= {e.tag.removeprefix(f"{{{OURS}}}"): e.text or "" for e in description if OURS in e.tag}
    text = attributes.pop("Recipe", None)
    if text is None:
        return None
    if hashlib.sha256(text.encode()).hexdigest() != attributes.get("RecipeDigest"):
        raise RecipeError("The recipe in this file was changed after it was written.")
    return Recipe.from_json(text), attributes


def parsed_packet(xmp: bytes | None) -> ET.Element | None:
    """Parse a packet.

    Parameters
    ----------
    xmp : XMP packet, None where there is none

    Returns
    -------
    The root; None where there is none, or it is no sound XML.
    """
    if not xmp or len(xmp) > _LARGEST_BYTES:
        return None
    try:
        root = parse_xml(xmp.strip(b"\0 \n\r\t\xef\xbb\xbf"))
    except ValueError:
        return None
    if root.tag == f"{{{RDF}}}RDF" or root.find(f"{{{RDF}}}RDF") is not None:
        return root
    return None


def _forget(description: ET.Element) -> None:
    """Take out what holds for the source alone."""
    for name in [n for n in description.attrib if n in _OF_THE_SOURCE or n.startswith(f"{{{OURS}}}")]:
        del description.attrib[name]
    for element in [e for e in description if e.tag in _OF_THE_SOURCE or e.tag.startswith(f"{{{OURS}}}")]:
        description.remove(element)


def _description(origin: FileOrigin) -> ET.Element:
    element = ET.Element(f"{{{RDF}}}Description", {f"{{{RDF}}}about": ""})
    simple = {
        f"{{{_XMP}}}CreatorTool": origin.program,
        f"{{{_MM}}}DocumentID": origin.document_id,
        f"{{{_MM}}}InstanceID": origin.instance_id,
        f"{{{OURS}}}Program": origin.program,
        f"{{{OURS}}}Provider": origin.provider,
        f"{{{OURS}}}SourceName": origin.source_name,
        f"{{{OURS}}}SourceDigest": origin.source_digest,
        f"{{{OURS}}}RecipeDigest": origin.recipe_digest,
        f"{{{OURS}}}Recipe": origin.recipe_text,
    }
    if origin.guests:
        simple[f"{{{OURS}}}Guests"] = origin.guests
    for name, text in simple.items():
        ET.SubElement(element, name).text = text
    derived = ET.SubElement(element, f"{{{_MM}}}DerivedFrom", {f"{{{RDF}}}parseType": "Resource"})
    ET.SubElement(derived, f"{{{_REF}}}documentID").text = origin.source_id
    return element
