"""How pixels came about, in the terms of an open standard (IPTC Photo Metadata Standard 2023, Digital Source Type)."""

from __future__ import annotations

import xml.etree.ElementTree as ET

from wamplex.core.provenance.xmp import RDF, rdf_of, read_property, write_packet

# The vocabulary of IPTC NewsCodes; terms from memory.
_TERMS = "http://cv.iptc.org/newscodes/digitalsourcetype/"
ENHANCED = f"{_TERMS}algorithmicallyEnhanced"
COMPOSITE = f"{_TERMS}compositeWithTrainedAlgorithmicMedia"
# Pictures that a program generated.
GENERATED = (f"{_TERMS}trainedAlgorithmicMedia", f"{_TERMS}algorithmicMedia")
# Sources that say more than what a learned upscaler adds to them.
_STRONGER = (*GENERATED, f"{_TERMS}compositeSynthetic")
_PROPERTY = "{http://iptc.org/std/Iptc4xmpExt/2008-02-29/}DigitalSourceType"
TERM_LABELS = {ENHANCED: "enhanced by an algorithm", COMPOSITE: "composite with generated parts"}


def source_type(xmp: bytes | None) -> str | None:
    """The digital source type that a packet states.

    Parameters
    ----------
    xmp : XMP packet, None where there is none

    Returns
    -------
    Address of the term; None where there is none.
    """
    return read_property(xmp, _PROPERTY)


def resulting_type(source: str | None, *, learned: bool, invented: bool) -> str | None:
    """The digital source type of a result.

    Parameters
    ----------
    source : that of the source, None where it states none
    learned : whether a learned upscaler rendered pixels
    invented : whether texture was invented, or pixels are of a guest

    Returns
    -------
    Address of the term; None where the source states none and interpolation alone was used.
    """
    if source in (*_STRONGER, COMPOSITE):
        return source
    if invented:
        return COMPOSITE
    return ENHANCED if learned else source


def set_source_type(xmp: bytes | None, term: str) -> bytes:
    """Write a digital source type into a packet.

    Parameters
    ----------
    xmp : XMP packet, None for a new one
    term : address of the term

    Returns
    -------
    The packet.
    """
    ET.register_namespace("Iptc4xmpExt", _PROPERTY[1:].partition("}")[0])
    root, rdf = rdf_of(xmp)
    for description in rdf.iter(f"{{{RDF}}}Description"):
        description.attrib.pop(_PROPERTY, None)
        for element in description.findall(_PROPERTY):
            description.remove(element)
    description = ET.SubElement(rdf, f"{{{RDF}}}Description", {f"{{{RDF}}}about": ""})
    ET.SubElement(description, _PROPERTY).text = term
    return write_packet(root)
