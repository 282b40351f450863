"""The profile that the desktop has for a screen: from colord over D-Bus, or from the X server.

colord's interfaces are org.freedesktop.ColorManager; the property of the X server is that of "ICC Profiles In
X Specification 0.4" (freedesktop.org).
"""

from __future__ import annotations

import os
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from wamplex.core.base.errors import DeliveryError
from wamplex.core.colour.profile_check import is_usable, profile_fits
from wamplex.core.colour.soft_proof import read_profile

_BUS, _PATH = "org.freedesktop.ColorManager", "/org/freedesktop/ColorManager"
_TIMEOUT_S = 2.0


@dataclass(frozen=True)
class ScreenProfile:
    """An ICC profile of a screen, and who knows it."""

    profile: bytes
    whence: str


def desktop_profile(output: str, number: int) -> ScreenProfile | None:
    """The profile of a screen; None where the desktop has none, or none that can be used.

    Parameters
    ----------
    output : its name as the graphics driver has it, such as "HDMI-1"
    number : its place among the screens, from 0
    """
    # Whatever goes wrong on a bus or a server is no reason to show nothing.
    with suppress(Exception):
        profile = _from_colord(output)
        if profile is not None:
            return profile
    with suppress(Exception):
        return _from_x11(number)
    return None


def _from_colord(output: str) -> ScreenProfile | None:
    from jeepney.io.blocking import open_dbus_connection

    with open_dbus_connection(bus="SYSTEM") as bus:

        def called(path: str, interface: str, method: str, signature: str, *values: str) -> Any:
            from jeepney import DBusAddress, new_method_call
            from jeepney.wrappers import unwrap_msg

            address = DBusAddress(path, bus_name=_BUS, interface=interface)
            message = new_method_call(address, method, signature, values)
            return unwrap_msg(bus.send_and_get_reply(message, timeout=_TIMEOUT_S))[0]

        def known(path: str, kind: str, name: str) -> Any:
            get = ("org.freedesktop.DBus.Properties", "Get", "ss")
            return called(path, *get, f"{_BUS}.{kind}", name)[1]

        for device in called(_PATH, _BUS, "GetDevicesByKind", "s", "display"):
            if known(device, "Device", "Metadata").get("XRANDR_name") != output:
                continue
            profiles = known(device, "Device", "Profiles")  # the one in use comes first
            if profiles:
                file = Path(known(profiles[0], "Profile", "Filename"))
                with suppress(DeliveryError):
                    return ScreenProfile(read_profile(file, (3,)), f"{file.name}, from the desktop")
    return None


def _from_x11(number: int) -> ScreenProfile | None:
    if not os.environ.get("DISPLAY"):
        return None
    from Xlib import X, display

    server = display.Display()
    try:
        name = "_ICC_PROFILE" if number == 0 else f"_ICC_PROFILE_{number}"
        atom = server.intern_atom(name, only_if_exists=True)
        root = server.screen().root
        x_property = root.get_full_property(atom, X.AnyPropertyType) if atom else None
    finally:
        server.close()
    profile = b"" if x_property is None else bytes(x_property.value)
    usable = profile_fits(profile, 3) and is_usable(profile, 3)
    return ScreenProfile(profile, "from the X server") if usable else None
