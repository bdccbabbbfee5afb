"""Builds calendars from iTIP messages alone, as mail programs would, with libraries that are not Jembro's.

Usage: rebuild.py icalendar|libical < boxes.json
The input is {"until": ..., "boxes": [[[message, ...], ...], ...]}: for each mailbox the messages of each step, in the order of their
arrival. The answer is, for each mailbox and step, what two kinds of calendars show up to a day: "keep" keeps what it knows of single
dates, by their RECURRENCE-ID, when a new whole arrives; "whole" takes each new whole as all there is.

icalendar: python3-icalendar reads, python3-dateutil expands on the wall clock, zones are the system's.
libical:   libical reads and expands with the VTIMEZONE of the message.
"""
import json
import sys
from datetime import datetime, timedelta, timezone


class Calendar:
    """What has arrived, by UID: the series or meeting, and single dates by their RECURRENCE-ID (RFC 5546, 3.2.2 and 3.2.5)."""

    def __init__(self, library, keeps):
        self.library, self.keeps = library, keeps
        self.masters, self.dates, self.gone, self.known = {}, {}, {}, {}

    def take(self, method, events, text):
        uids = {e.uid for e in events}
        assert len(uids) == 1, f"one object is about one UID, not {uids}"
        (uid,) = uids
        version = max((e.sequence, e.stamp) for e in events)
        assert uid not in self.known or self.known[uid] < version, f"a message no newer than what is known: {self.known[uid]}, {version}"
        self.known[uid] = version
        dates, gone = self.dates.setdefault(uid, {}), self.gone.setdefault(uid, set())
        if method == "REQUEST":
            if any(e.recurrence is None for e in events) and not self.keeps:
                dates.clear()
                gone.clear()
            for e in events:
                if e.recurrence is None:
                    self.masters[uid] = e
                else:
                    dates[e.recurrence] = e
                    gone.discard(e.recurrence)
        elif method == "CANCEL":
            for e in events:
                if e.recurrence is None:
                    self.masters.pop(uid, None)
                    dates.clear()
                    gone.clear()
                else:
                    dates.pop(e.recurrence, None)
                    gone.add(e.recurrence)
        else:
            raise AssertionError(f"method {method}")

    def show(self, until):
        shown = []
        for uid, master in self.masters.items():
            own, gone = self.dates[uid], self.gone[uid]
            for start, end in self.library.expand(master):
                if start not in own and start not in gone:
                    shown.append(master.at(start, end))
        for dates in self.dates.values():
            shown += [e.at(e.start, e.end) for e in dates.values()]
        return sorted((s for s in shown if s["start"] < until), key=lambda s: (s["start"], s["uid"]))


class Event:
    def at(self, start, end):
        return {"uid": self.uid, "start": stamp(start), "end": stamp(end), "summary": self.summary, "location": self.location,
                "conference": self.conference, "text": self.text, "answers": self.answers}


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
            e.uid, e.sequence, e.stamp = str(c["UID"]), int(c.get("SEQUENCE", 0)), stamp(c["DTSTAMP"].dt)
            e.summary, e.location, e.conference = str(c.get("SUMMARY", "")), str(c.get("LOCATION", "")), str(c.get("CONFERENCE", ""))
            e.text = str(c.get("DESCRIPTION", ""))
            attendees = c.get("ATTENDEE", [])
            attendees = attendees if isinstance(attendees, list) else [attendees]
            e.answers = " ".join(sorted(f"{a[7:]}:{a.params['PARTSTAT']}" for a in attendees if a.params["CUTYPE"] == "INDIVIDUAL"))
            e.zone = zone_of(c["DTSTART"])
            e.start = here(c["DTSTART"].dt)
            e.end = here(c["DTEND"].dt) if "DTEND" in c else e.start + c["DURATION"].dt
            e.wall = c["DTSTART"].dt.replace(tzinfo=None)
            e.rule = c["RRULE"].to_ical().decode() if "RRULE" in c else None
            e.added, e.left = walls(c.get("RDATE")), walls(c.get("EXDATE"))
            e.recurrence = here(c["RECURRENCE-ID"].dt) if "RECURRENCE-ID" in c else None
            events.append(e)
        return str(parsed["METHOD"]), events

    def expand(self, e):
        from dateutil.rrule import rruleset, rrulestr

        length = e.end - e.start
        every = rruleset()
        if e.rule is None:
            every.rdate(e.wall)
        else:
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
            e.stamp = c.get_dtstamp().as_ical_string()
            e.summary, e.location, e.text = c.get_summary() or "", c.get_location() or "", c.get_description() or ""
            e.conference = conference_of(ical, c)
            e.answers = answers_of(ical, c)
            e.start = moment_of(c.get_dtstart())
            e.end = moment_of(c.get_dtend()) if has(ical, c, "DTEND") else e.start + timedelta(seconds=c.get_duration().as_int())
            e.recurrence = None
            if has(ical, c, "RECURRENCEID"):
                prop = c.get_first_property(ical.PropertyKind.RECURRENCEID_PROPERTY)
                e.recurrence = moment_of(prop.get_datetime_with_component(c))
            events.append(e)
            c = parsed.get_next_component(ical.ComponentKind.VEVENT_COMPONENT)
        return parsed.get_first_property(ical.PropertyKind.METHOD_PROPERTY).get_value_as_string(), events

    def expand(self, e):
        ical = self.ical
        # Not with icalcomponent_foreach_recurrence: it is a date late with a change of the clocks (libical 3.0.16).
        kind, c = ical.PropertyKind, e.component
        first = c.get_first_property(kind.DTSTART_PROPERTY).get_datetime_with_component(c)
        moments, left = set(), set()
        if has(ical, c, "RRULE"):
            iterator = ical.RecurIterator.new(c.get_first_property(kind.RRULE_PROPERTY).get_rrule(), first)
            while (moment := iterator.next()) is not None and not moment.is_null_time() and moment.get_year() < UNTIL_YEAR:
                moments.add(moment_of_wall(ical, moment.as_ical_string(), first))
        else:
            moments.add(e.start)
        for which, into in ((kind.RDATE_PROPERTY, moments), (kind.EXDATE_PROPERTY, left)):
            prop = c.get_first_property(which)
            while prop is not None:
                for value in prop.get_value_as_string().split(","):
                    into.add(moment_of_wall(ical, value, first))
                prop = c.get_next_property(which)
        length = e.end - e.start
        return [(start, start + length) for start in sorted(moments - left)]


def has(ical, c, name):
    return c.get_first_property(getattr(ical.PropertyKind, name + "_PROPERTY")) is not None


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


def answers_of(ical, c):
    out = []
    prop = c.get_first_property(ical.PropertyKind.ATTENDEE_PROPERTY)
    while prop is not None:
        if prop.get_parameter_as_string("CUTYPE") == "INDIVIDUAL":
            out.append(f"{prop.get_value_as_string()[7:]}:{prop.get_parameter_as_string('PARTSTAT')}")
        prop = c.get_next_property(ical.PropertyKind.ATTENDEE_PROPERTY)
    return " ".join(sorted(out))


library = {"icalendar": WithIcalendar, "libical": WithLibical}[sys.argv[1]]()
asked = json.load(sys.stdin)
answer = []
for box in asked["boxes"]:
    calendars = {"keep": Calendar(library, True), "whole": Calendar(library, False)}
    steps = []
    for messages in box:
        for text in messages:
            method, events = library.read(text)
            for calendar in calendars.values():
                calendar.take(method, events, text)
        steps.append({kind: calendar.show(asked["until"]) for kind, calendar in calendars.items()})
    answer.append(steps)
json.dump(answer, sys.stdout)
