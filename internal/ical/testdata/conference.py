"""Prints the CONFERENCE properties of a calendar as python3-icalendar or libical reads them: the value, its type, FEATURE and LABEL.

Usage: conference.py icalendar|libical < calendar.ics
"""
import ctypes
import ctypes.util
import json
import sys

raw = sys.stdin.buffer.read()


def icalendar():
    from icalendar import Calendar

    for event in Calendar.from_ical(raw).walk("VEVENT"):
        found = event.get("CONFERENCE", [])
        for p in found if isinstance(found, list) else [found]:
            feature = p.params.get("FEATURE", "")
            yield {
                "uri": str(p),
                "type": str(p.params.get("VALUE", "")),
                "feature": ",".join(feature) if isinstance(feature, list) else str(feature),
                "label": str(p.params.get("LABEL", "")),
            }


def libical():
    lib = ctypes.CDLL(ctypes.util.find_library("ical"))
    text = ctypes.c_char_p
    lib.icalparser_parse_string.restype = ctypes.c_void_p
    for name, args, result in [
        ("icalcomponent_get_first_component", [ctypes.c_void_p, ctypes.c_int], ctypes.c_void_p),
        ("icalcomponent_get_first_property", [ctypes.c_void_p, ctypes.c_int], ctypes.c_void_p),
        ("icalcomponent_get_next_property", [ctypes.c_void_p, ctypes.c_int], ctypes.c_void_p),
        ("icalproperty_get_property_name", [ctypes.c_void_p], text),
        ("icalproperty_get_value_as_string", [ctypes.c_void_p], text),
        ("icalproperty_get_parameter_as_string", [ctypes.c_void_p, text], text),
    ]:
        f = getattr(lib, name)
        f.argtypes, f.restype = args, result
    any_property, vevent = 0, 4
    root = lib.icalparser_parse_string(raw)
    event = lib.icalcomponent_get_first_component(root, vevent)
    p = lib.icalcomponent_get_first_property(event, any_property)
    while p:
        if lib.icalproperty_get_property_name(p) == b"CONFERENCE":
            said = lambda name: (lib.icalproperty_get_parameter_as_string(p, name) or b"").decode()
            yield {"uri": lib.icalproperty_get_value_as_string(p).decode(), "type": said(b"VALUE"), "feature": said(b"FEATURE"), "label": said(b"LABEL").strip('"')}
        p = lib.icalcomponent_get_next_property(event, any_property)


print(json.dumps(list({"icalendar": icalendar, "libical": libical}[sys.argv[1]]())))
