"""Leaves out of a file what its owner may not want to tell: place, serial numbers, names."""

from __future__ import annotations

import xml.etree.ElementTree as ET

from wamplex.core.base.bounded_parsing import parse_xml
from wamplex.core.deliver.metadata.exif import ExifEntry, ExifFields, build_exif, parse_exif
from wamplex.core.deliver.metadata.iptc import Dataset, filter_records, iim_records, jpeg_segment
from wamplex.core.deliver.request.delivery import MetadataChoice
from wamplex.core.model.picture import Metadata

# Tags of CIPA DC-008 (Exif 2.32).
_SERIALS = {42033: "serial numbers", 42037: "serial numbers", 42016: "serial numbers"}
_NAMES = {42032: "owner's name", 37510: "comments", 37500: "maker notes"}
_RIGHTS_TAGS = (270, 315, 33432)  # description, artist, copyright
# Datasets of record 2 of IPTC-IIM 4.2.
_PLACES = (26, 27, 90, 92, 95, 100, 101)
_RIGHTS_DATASETS = (5, 80, 85, 110, 115, 116, 120)
# Local names of XMP properties (XMP part 2; IPTC Photo Metadata Standard 2023; CIPA DC-010).
_XMP_PRIVATE = {
    **dict.fromkeys(("City", "State", "Country", "CountryCode", "Location", "Sublocation", "WorldRegion"), "place"),
    **dict.fromkeys(("LocationCreated", "LocationShown", "LocationName", "ProvinceState", "CountryName"), "place"),
    **dict.fromkeys(("SerialNumber", "LensSerialNumber", "BodySerialNumber", "ImageUniqueID"), "serial numbers"),
    **dict.fromkeys(("OwnerName", "CameraOwnerName"), "owner's name"),
    **dict.fromkeys(("UserComment",), "comments"),
    **dict.fromkeys(("MakerNote",), "maker notes"),
}
_XMP_RIGHTS = ("creator", "rights", "description", "title", "DigitalSourceType", "Credit", "Source", "Headline")
_XMP_RIGHTS_SPACES = ("http://ns.adobe.com/xap/1.0/rights/", "http://creativecommons.org/ns#")
_RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"


def choose_metadata(metadata: Metadata, choice: MetadataChoice) -> tuple[Metadata, tuple[str, ...]]:
    """The part of a source's metadata that is passed on.

    Parameters
    ----------
    metadata : of the source
    choice : "all"; "safe" for all but place, serial numbers, owner's name and comments; "rights" for rights and
        description; "none"

    Returns
    -------
    What stays, and what was left out, in words.
    """
    if choice == "all" or metadata == Metadata():
        return metadata, ()
    if choice == "none":
        return Metadata(), ("all metadata",)
    removed: set[str] = set()
    rights_only = choice == "rights"
    left = Metadata(
        exif=_exif(metadata.exif, rights_only, removed),
        xmp=_xmp(metadata.xmp, rights_only, removed),
        iptc=_iptc(metadata.iptc, rights_only, removed),
    )
    return left, ("all but rights and description",) if rights_only else tuple(sorted(removed))


def _exif(block: bytes | None, rights_only: bool, removed: set[str]) -> bytes | None:
    if block is None:
        return None
    fields = parse_exif(block, everything=True)
    if rights_only:
        first = tuple(entry for entry in fields.first if entry.tag in _RIGHTS_TAGS)
        return build_exif(ExifFields(first)) if first else None
    private = _SERIALS | _NAMES
    if fields.gps:
        removed.add("place")
    removed.update(private[entry.tag] for entry in fields.exif if entry.tag in private and _says_something(entry))
    return build_exif(ExifFields(fields.first, tuple(entry for entry in fields.exif if entry.tag not in private)))


def _says_something(entry: ExifEntry) -> bool:
    """Cameras write empty fields, too; a comment begins with the name of its characters."""
    data = entry.data[8:] if entry.tag == 37510 else entry.data
    return bool(data.strip(b"\0 "))


def _iptc(block: bytes | None, rights_only: bool, removed: set[str]) -> bytes | None:
    def keeps(dataset: Dataset) -> bool:
        if dataset.record != 2:
            return True
        return dataset.number in _RIGHTS_DATASETS if rights_only else dataset.number not in _PLACES

    records, changed = filter_records(iim_records(block), keeps)
    if changed and not rights_only:
        removed.add("place")
    return jpeg_segment(records) if records else None


def _xmp(packet: bytes | None, rights_only: bool, removed: set[str]) -> bytes | None:
    if packet is None:
        return None
    try:
        root = parse_xml(packet.strip(b"\0 \n\r\t\xef\xbb\xbf"))
    except ValueError:
        return None  # what cannot be read may say anything
    for description in root.iter(f"{{{_RDF}}}Description"):
        for name in list(description.attrib):
            if not name.startswith(f"{{{_RDF}}}") and not _xmp_stays(name, rights_only, removed):
                del description.attrib[name]
        for child in list(description):
            if not _xmp_stays(child.tag, rights_only, removed):
                description.remove(child)
    packet_left: bytes = ET.tostring(root, encoding="utf-8")
    return packet_left


def _xmp_stays(tag: str, rights_only: bool, removed: set[str]) -> bool:
    space, _, name = tag.removeprefix("{").rpartition("}")
    if rights_only:
        return name in _XMP_RIGHTS or space in _XMP_RIGHTS_SPACES
    reason = "place" if name.startswith("GPS") else _XMP_PRIVATE.get(name)
    if reason is not None:
        removed.add(reason)
    return reason is None
