"""Builds a calendar from iTIP messages alone, as a mail program would, with libraries that are not Jembro's.

Usage: rebuild.py icalendar|libical < messages.json
The input is a JSON list of iCalendar objects in the order of their arrival; the answer is a JSON list of what the calendar shows
up to November 2028: uid, start and end in UTC, summary, location, url of the conference.

icalendar: python3-icalendar reads, python3-dateutil expands on the wall clock, zones are the system's.
libical:   libical reads and expands with the VTIMEZONE of the message.
"""
import json
import sys
from datetime import date, datetime, timedelta, timezone


class Calendar:
    """What has arrived, by UID: the series or meeting, and single dates by their RECURRENCE-ID (RFC 5546, 3.2.2 and 3.2.5)."""

    def __init__(self, library):
        self.library = library
        self.masters = {}
        self.dates = {}
        self.gone = {}

    def take(self, text):
        method, events = self.library.read(text)
        uids = {e.uid for e in events}
        assert len(uids) == 1, f"one object is about one UID, not {uids}"
        (uid,) = uids
        if method == "REQUEST":
            if any(e.recurrence is None for e in events):
                # The whole anew: what was known of single dates is replaced.
                self.dates[uid], self.gone[uid] = {}, set()
            for e in events:
                known = self.masters.get(uid) if e.recurrence is None else self.dates.setdefault(uid, {}).get(e.recurrence)
                assert known is None or known.sequence <= e.sequence, "a message older than what is known"
                if e.recurrence is None:
                    self.masters[uid] = e
                else:
                    self.dates[uid][e.recurrence] = e
                    self.gone.setdefault(uid, set()).discard(e.recurrence)
        elif method == "CANCEL":
            for e in events:
                if e.recurrence is None:
                    self.masters.pop(uid, None)
                    self.dates.pop(uid, None)
                else:
                    self.dates.get(uid, {}).pop(e.recurrence, None)
                    self.gone.setdefault(uid, set()).add(e.recurrence)
        else:
            raise AssertionError(f"method {method}")

    def show(self):
        shown = []
        for uid, master in self.masters.items():
            own = self.dates.get(uid, {})
            for start, end in self.library.expand(master):
                if start not in own and start not in self.gone.get(uid, set()):
                    shown.append(master.at(start, end))
        for dates in self.dates.values():
            shown += [e.at(e.start, e.end) for e in dates.values()]
        shown = [s for s in shown if s["start"] < "2028-12-01"]  # whatever the zone, all of these are known
        return sorted(shown, key=lambda s: (s["start"], s["uid"]))


class Event:
    def at(self, start, end):
        return {"uid": self.uid, "start": stamp(start), "end": stamp(end), "summary": self.summary, "location": self.location,
                "conference": self.conference}


def stamp(moment):
    return moment.astimezone(timezone.utc).strftime("%Y-%m-%dT%H:%M:%SZ")


UNTIL_YEAR = 2029


class WithIcalendar:
    def read(self, text):
        from icalendar import Calendar as Parsed

        parsed = Parsed.from_ical(text)
        events = []
        for c in parsed.walk("VEVENT"):
            e = Event()
            e.uid, e.sequence = str(c["UID"]), int(c.get("SEQUENCE", 0))
            e.summary, e.location, e.conference = str(c.get("SUMMARY", "")), str(c.get("LOCATION", "")), str(c.get("CONFERENCE", ""))
            e.zone = zone_of(c["DTSTART"])
            e.start, e.end = here(c["DTSTART"].dt), here(c["DTEND"].dt)
            e.wall = c["DTSTART"].dt.replace(tzinfo=None)
            e.rule = c["RRULE"].to_ical().decode() if "RRULE" in c else None
            e.added, e.left = walls(c.get("RDATE")), walls(c.get("EXDATE"))
            e.recurrence = here(c["RECURRENCE-ID"].dt) if "RECURRENCE-ID" in c else None
            events.append(e)
        return str(parsed["METHOD"]), events

    def expand(self, e):
        from dateutil.rrule import rruleset, rrulestr

        length = e.end - e.start
        if e.rule is None:
            return [(e.start, e.end)]
        every = rruleset()
        every.rrule(rrulestr(until_here(e.rule, e.zone), dtstart=e.wall))
        for d in e.added:
            every.rdate(d)
        for d in e.left:
            every.exdate(d)
        out = []
        for wall in every:
            if wall.year >= UNTIL_YEAR:
                break
            start = wall.replace(tzinfo=e.zone)
            out.append((start.astimezone(timezone.utc), start.astimezone(timezone.utc) + length))
        return out


def zone_of(prop):
    from zoneinfo import ZoneInfo

    name = prop.params.get("TZID")
    return ZoneInfo(name) if name else timezone.utc


def here(moment):
    """python3-icalendar gives the time a zone of its own making; the wall clock is read in the system's zone."""
    from zoneinfo import ZoneInfo

    name = getattr(moment.tzinfo, "zone", None) or str(moment.tzinfo)
    zone = timezone.utc if name in ("UTC", "None") else ZoneInfo(name)
    return moment.replace(tzinfo=zone).astimezone(timezone.utc)


def walls(props):
    if props is None:
        return []
    props = props if isinstance(props, list) else [props]
    return [d.dt.replace(tzinfo=None) for p in props for d in p.dts]


def until_here(rule, zone):
    """UNTIL is in UTC; dateutil wants it on the wall clock of a start without a zone."""
    parts = []
    for part in rule.split(";"):
        name, value = part.split("=", 1)
        if name == "UNTIL":
            assert value.endswith("Z"), "UNTIL is in UTC when DTSTART has a zone (RFC 5545, 3.3.10)"
            moment = datetime.strptime(value, "%Y%m%dT%H%M%SZ").replace(tzinfo=timezone.utc)
            value = moment.astimezone(zone).strftime("%Y%m%dT%H%M%S")
        assert name != "COUNT", "the end is an UNTIL"
        parts.append(f"{name}={value}")
    return ";".join(parts)


class WithLibical:
    def __init__(self):
        import gi

        gi.require_version("ICalGLib", "3.0")
        from gi.repository import ICalGLib

        self.ical = ICalGLib

    def read(self, text):
        ical = self.ical
        parsed = ical.Component.new_from_string(text)
        assert ical.restriction_check(parsed), "the restrictions of RFC 5546"
        events = []
        c = parsed.get_first_component(ical.ComponentKind.VEVENT_COMPONENT)
        while c is not None:
            e = Event()
            e.parsed, e.component = parsed, c  # the zones live in the calendar
            e.uid, e.sequence = c.get_uid(), c.get_sequence()
            e.summary, e.location = c.get_summary() or "", c.get_location() or ""
            e.conference = conference_of(ical, c)
            e.start, e.end = moment_of(c.get_dtstart()), moment_of(c.get_dtend())
            e.recurrence = None
            if c.get_first_property(ical.PropertyKind.RECURRENCEID_PROPERTY) is not None:
                prop = c.get_first_property(ical.PropertyKind.RECURRENCEID_PROPERTY)
                e.recurrence = moment_of(prop.get_datetime_with_component(c))
            events.append(e)
            c = parsed.get_next_component(ical.ComponentKind.VEVENT_COMPONENT)
        return parsed.get_first_property(ical.PropertyKind.METHOD_PROPERTY).get_value_as_string(), events

    def expand(self, e):
        ical = self.ical
        if e.component.get_first_property(ical.PropertyKind.RRULE_PROPERTY) is None:
            return [(e.start, e.end)]
        # Not with icalcomponent_foreach_recurrence: it is a date late with a change of the clocks (libical 3.0.16).
        kind, c = ical.PropertyKind, e.component
        first = c.get_first_property(kind.DTSTART_PROPERTY).get_datetime_with_component(c)
        moments, left = set(), set()
        iterator = ical.RecurIterator.new(c.get_first_property(kind.RRULE_PROPERTY).get_rrule(), first)
        while (moment := iterator.next()) is not None and not moment.is_null_time() and moment.get_year() < UNTIL_YEAR:
            moments.add(moment_of_wall(ical, moment.as_ical_string(), first))
        for which, into in ((kind.RDATE_PROPERTY, moments), (kind.EXDATE_PROPERTY, left)):
            prop = c.get_first_property(which)
            while prop is not None:
                into.add(moment_of_wall(ical, prop.get_value_as_string(), first))
                prop = c.get_next_property(which)
        length = e.end - e.start
        return [(start, start + length) for start in sorted(moments - left)]


def moment_of_wall(ical, text, first):
    """A time of the series, read in the zone of its start as the VTIMEZONE of the message has it."""
    zone = first.get_timezone() if not first.is_utc() else ical.Timezone.get_utc_timezone()
    return utc(ical.Time.new_from_string(text).as_timet_with_zone(zone))


def utc(seconds):
    return datetime.fromtimestamp(seconds, timezone.utc)


def moment_of(time):
    zone = time.get_timezone()
    return utc(time.as_timet_with_zone(zone))


def conference_of(ical, c):
    for line in c.as_ical_string().replace("\r\n ", "").split("\r\n"):
        if line.startswith("CONFERENCE"):
            return line[line.index(":http") + 1 :]
    return ""


calendar = Calendar({"icalendar": WithIcalendar, "libical": WithLibical}[sys.argv[1]]())
for message in json.load(sys.stdin):
    calendar.take(message)
json.dump(calendar.show(), sys.stdout)
