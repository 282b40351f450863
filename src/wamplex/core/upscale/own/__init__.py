"""Networks the user brought along: tried in a process of their own before they may be used."""
