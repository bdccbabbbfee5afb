"""Reads a raw mail on standard input with a library that is not Jembro's, and prints when its entries are, as JSON.

Usage: read_dates.py icalendar|libical < message.eml
Whole days are printed as dates, the end as the day after the last (RFC 5545, 3.6.1); a series is expanded.
"""
import datetime
import email
import email.policy
import json
import sys


def calendar_part(raw):
    message = email.message_from_bytes(raw, policy=email.policy.default)
    (part,) = [p for p in message.walk() if p.get_content_type() == "text/calendar" and not p.is_attachment()]
    return part.get_payload(decode=True)


def with_icalendar(raw):
    import icalendar
    from dateutil.rrule import rruleset, rrulestr

    out = []
    for event in icalendar.Calendar.from_ical(raw).walk("VEVENT"):
        start, end = event["DTSTART"].dt, event["DTEND"].dt
        days = []
        if "RRULE" in event:
            every = rruleset()
            midnight = datetime.datetime(start.year, start.month, start.day)
            every.rrule(rrulestr(event["RRULE"].to_ical().decode(), dtstart=midnight))
            left = event.get("EXDATE", [])
            for dates in left if isinstance(left, list) else [left]:
                for d in dates.dts:
                    assert type(d.dt) is datetime.date, "EXDATE is no date"
                    every.exdate(datetime.datetime(d.dt.year, d.dt.month, d.dt.day))
            days = [d.date().isoformat() for d in every]
        own = event["RECURRENCE-ID"].dt if "RECURRENCE-ID" in event else None
        assert all(type(d) is datetime.date for d in [start, end] + ([own] if own else [])), "not whole days"
        out.append(dict(start=start.isoformat(), end=end.isoformat(), days=days, own=own.isoformat() if own else "", free=str(event["TRANSP"]) == "TRANSPARENT"))
    return out


def with_libical(raw):
    import gi

    gi.require_version("ICalGLib", "3.0")
    from gi.repository import ICalGLib as ical

    calendar = ical.Component.new_from_string(raw.decode())
    assert calendar.check_restrictions(), "a restriction of the method is not met"

    def date(t):
        assert t.is_date(), "not whole days"
        return f"{t.get_year():04}-{t.get_month():02}-{t.get_day():02}"

    def properties(event, kind):
        found = event.get_first_property(kind)
        while found is not None:
            yield found
            found = event.get_next_property(kind)

    out = []
    event = calendar.get_first_component(ical.ComponentKind.VEVENT_COMPONENT)
    while event is not None:
        left = {date(p.get_exdate()) for p in properties(event, ical.PropertyKind.EXDATE_PROPERTY)}
        days = []
        for p in list(properties(event, ical.PropertyKind.RRULE_PROPERTY)):  # get_dtstart starts the search anew
            each = ical.RecurIterator.new(p.get_rrule(), event.get_dtstart())
            t = each.next()
            while t is not None and not t.is_null_time():
                if date(t) not in left:
                    days.append(date(t))
                t = each.next()
        own = event.get_first_property(ical.PropertyKind.RECURRENCEID_PROPERTY)
        transparent = event.get_first_property(ical.PropertyKind.TRANSP_PROPERTY).get_value_as_string()
        out.append(dict(start=date(event.get_dtstart()), end=date(event.get_dtend()), days=days, own=date(own.get_recurrenceid()) if own else "", free=transparent == "TRANSPARENT"))
        event = calendar.get_next_component(ical.ComponentKind.VEVENT_COMPONENT)
    return out


print(json.dumps({"icalendar": with_icalendar, "libical": with_libical}[sys.argv[1]](calendar_part(sys.stdin.buffer.read()))))
