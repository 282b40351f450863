"""Reads JSON and XML of strangers within bounds: what is nested without end is refused, not followed."""

from __future__ import annotations

import json
import re
import xml.etree.ElementTree as ET
from typing import Any

import numpy as np

MAX_DEPTH = 100
_STRINGS = re.compile(rb'"(?:[^"\\]|\\.)*"', re.DOTALL)
_TOO_DEEP = f"it is nested more than {MAX_DEPTH} levels deep"


def parse_json(text: str | bytes) -> Any:
    """Parse JSON (RFC 8259) of at most `MAX_DEPTH` levels.

    Parameters
    ----------
    text : JSON; bytes are UTF-8

    Returns
    -------
    Dictionaries, lists, strings, numbers, booleans and None.

    Raises
    ------
    ValueError : when it is not JSON, or nested too deeply
    """
    if _json_depth(text.encode("utf-8", "surrogatepass") if isinstance(text, str) else text) > MAX_DEPTH:
        raise ValueError(_TOO_DEEP)
    return json.loads(text)


def parse_xml(text: bytes) -> ET.Element:
    """Parse XML of at most `MAX_DEPTH` levels, without declarations of types and entities.

    Parameters
    ----------
    text : XML

    Returns
    -------
    The root element.

    Raises
    ------
    ValueError : when it is not XML, declares entities, or is nested too deeply
    """
    plain = text.replace(b"\0", b"")  # UTF-16 has a zero beside each of these characters
    if b"<!DOCTYPE" in plain or b"<!ENTITY" in plain:
        raise ValueError("it declares types or entities")
    try:
        root = ET.fromstring(text)
    except ET.ParseError as error:
        raise ValueError(str(error)) from error
    level, depth = [root], 0
    while level:
        depth += 1
        if depth > MAX_DEPTH:
            raise ValueError(_TOO_DEEP)
        level = [child for element in level for child in element]
    return root


def _json_depth(text: bytes) -> int:
    """Levels of brackets outside of strings."""
    signs = np.frombuffer(_STRINGS.sub(b"", text), np.uint8)
    steps = np.isin(signs, (ord("["), ord("{"))).astype(np.int32) - np.isin(signs, (ord("]"), ord("}")))
    return int(np.cumsum(steps).max(initial=0))
