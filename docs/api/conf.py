"""Sphinx settings for the API reference of `wamplex.core`; `make docs` builds it."""

import importlib.metadata

project = "Wamplex"
author = "The Wamplex developers"
release = importlib.metadata.version("wamplex")
extensions = ["sphinx.ext.autodoc", "sphinx.ext.napoleon", "sphinx.ext.viewcode"]
default_role = "code"
nitpicky = False
autodoc_typehints = "signature"
autodoc_member_order = "bysource"
autodoc_default_options = {"members": True, "show-inheritance": False}
autodoc_preserve_defaults = True
napoleon_google_docstring = False
napoleon_use_rtype = False
napoleon_use_ivar = True
html_theme = "alabaster"
html_theme_options = {"description": "Enlarge pictures for printing and compare upscalers", "page_width": "1100px"}
html_show_sourcelink = False

_SECTIONS = ("Parameters", "Attributes", "Raises")


def spread_entries(app, what, name, obj, options, lines):
    """Put the text of an entry below its name: our docstrings write “name : text” in a single line."""
    spread, section = [], ""
    for line, following in zip(lines, [*lines[1:], ""], strict=True):
        if following and set(following.strip()) == {"-"}:
            section = line.strip()
        entry, colon, text = line.partition(" : ")
        if section in _SECTIONS and colon and not line.startswith(" "):
            spread += [entry, f"    {text}"]
        else:
            spread.append(line)
    lines[:] = spread


def setup(app):
    app.connect("autodoc-process-docstring", spread_entries, priority=100)
