"""Says when calendars take time, with libraries that are not Jembro's: they read and expand, and this merges.

Usage: busy.py icalendar|libical [timed] < questions.json
The input is a list of {"ics", "from", "to", "zone"}, the answer a list of lists [start, end, kind]; timed, how many seconds that took.

icalendar: python3-icalendar reads, python3-dateutil expands on the wall clock; zones are the system's, those of VTIMEZONE otherwise.
libical:   libical reads and expands, with the VTIMEZONE of the calendar.
"""
import json
import sys
import time
from datetime import date, datetime, timedelta, timezone
from zoneinfo import ZoneInfo

UTC = timezone.utc


def utc(moment):
    return moment.astimezone(UTC)


class WithIcalendar:
    def times(self, text, start, end, zone):
        from icalendar import Calendar

        calendar = Calendar.from_ical(text)
        replaced = {}
        events = list(calendar.walk("VEVENT"))
        for e in events:
            if "RECURRENCE-ID" in e:
                replaced.setdefault(str(e.get("UID")), set()).add(self.instant(e["RECURRENCE-ID"].dt, zone))
        for e in events:
            kind = kind_of(str(e.get("STATUS", "")), str(e.get("TRANSP", "")))
            if kind:
                for first, last in self.dates(e, end, zone):
                    if "RECURRENCE-ID" in e or first not in replaced.get(str(e.get("UID")), ()):
                        yield first, last, kind
        for f in calendar.walk("VFREEBUSY"):
            periods = f.get("FREEBUSY", [])
            for p in periods if isinstance(periods, list) else [periods]:
                kind = BUSY[p.params.get("FBTYPE", "BUSY")]
                if kind:
                    yield utc(p.start), utc(p.end), kind

        yield from self.unavailable(calendar, start, end, zone)

    def unavailable(self, calendar, start, end, zone):
        """RFC 7953, 4: from the lowest priority up, each block takes its time and frees what it says is available."""
        blocks = [c for c in calendar.walk() if c.name == "VAVAILABILITY"]
        blocks.sort(key=lambda b: (10 - int(b.get("PRIORITY", 0))) % 10)
        edges, spans = {start, end}, []
        for b in blocks:
            first = self.instant(b["DTSTART"].dt, zone) if "DTSTART" in b else start
            last = self.instant(b["DTEND"].dt, zone) if "DTEND" in b else end
            free = [d for a in b.subcomponents for d in self.dates(a, end, zone)]
            spans.append((first, last, free))
            edges |= {min(max(x, start), end) for pair in [(first, last), *free] for x in pair}
        edges = sorted(edges)
        for a, z in zip(edges, edges[1:]):
            over = [free for first, last, free in spans if first <= a and z <= last]
            if over and not any(first <= a and z <= last for first, last in over[-1]):
                yield a, z, "leave"

    def instant(self, moment, zone):
        if not isinstance(moment, datetime):
            return utc(datetime(moment.year, moment.month, moment.day, tzinfo=zone))
        if moment.tzinfo is None:
            return utc(moment.replace(tzinfo=zone))
        return utc(self.placed(moment.replace(tzinfo=None), moment.tzinfo))

    def placed(self, wall, tz):
        name = getattr(tz, "zone", None) or getattr(tz, "key", None) or str(tz)
        try:
            return wall.replace(tzinfo=ZoneInfo(name))
        except Exception:  # of the calendar's own making
            return tz.localize(wall) if hasattr(tz, "localize") else wall.replace(tzinfo=tz)

    def dates(self, e, end, zone):
        from dateutil.rrule import rruleset, rrulestr

        start = e["DTSTART"].dt
        whole = not isinstance(start, datetime)
        wall = datetime(start.year, start.month, start.day) if whole else start.replace(tzinfo=None)
        tz = None if whole else start.tzinfo

        def place(w):
            return utc(w.replace(tzinfo=zone) if tz is None else self.placed(w, tz))

        def finish(w):
            if "DTEND" in e:
                if whole:
                    return place(w + (e["DTEND"].dt - start))
                return place(w) + (self.instant(e["DTEND"].dt, zone) - self.instant(start, zone))
            if "DURATION" in e:
                length = e["DURATION"].dt
                return place(w + timedelta(days=length.days)) + timedelta(seconds=length.seconds)
            return place(w + timedelta(days=1)) if whole else place(w)

        every = rruleset()
        every.rdate(wall)
        rules = e.get("RRULE", [])
        for rule in rules if isinstance(rules, list) else [rules]:
            every.rrule(rrulestr(until_here(rule.to_ical().decode(), lambda m: utc(m).astimezone(place(wall).astimezone(zone if tz is None else tz).tzinfo)), dtstart=wall))
        periods = []
        for added in listed(e.get("RDATE")):
            for d in added.dts:
                if isinstance(d.dt, tuple):
                    first, last = d.dt
                    periods.append((self.instant(first, zone), self.instant(first, zone) + last if isinstance(last, timedelta) else self.instant(last, zone)))
                else:
                    every.rdate(walled(d.dt))
        for left in listed(e.get("EXDATE")):
            for d in left.dts:
                every.exdate(walled(d.dt))
        yield from periods
        for w in every:
            if place(w) >= end + timedelta(days=2):
                break
            yield place(w), finish(w)


def walled(moment):
    return moment.replace(tzinfo=None) if isinstance(moment, datetime) else datetime(moment.year, moment.month, moment.day)


def listed(props):
    return [] if props is None else props if isinstance(props, list) else [props]


def until_here(rule, here):
    """UNTIL is in UTC; dateutil wants it on the wall clock of a start without a zone."""
    parts = []
    for part in rule.split(";"):
        name, value = part.split("=", 1)
        if name == "UNTIL" and value.endswith("Z"):
            value = here(datetime.strptime(value, "%Y%m%dT%H%M%SZ").replace(tzinfo=UTC)).strftime("%Y%m%dT%H%M%S")
        parts.append(f"{name}={value}")
    return ";".join(parts)


BUSY = {"BUSY": "busy", "BUSY-TENTATIVE": "maybe", "BUSY-UNAVAILABLE": "leave", "FREE": None}


def kind_of(status, transparent):
    if status.upper() == "CANCELLED" or transparent.upper() == "TRANSPARENT":
        return None
    return "maybe" if status.upper() == "TENTATIVE" else "busy"


class WithLibical:
    def __init__(self):
        import gi

        gi.require_version("ICalGLib", "3.0")
        from gi.repository import ICalGLib

        self.ical = ICalGLib

    def times(self, text, start, end, zone):
        ical, self.zone = self.ical, zone
        parsed = ical.Component.new_from_string(text)
        kind = ical.PropertyKind
        events = list(self.children(parsed, ical.ComponentKind.VEVENT_COMPONENT))
        replaced = {}
        for c in events:
            if (prop := c.get_first_property(kind.RECURRENCEID_PROPERTY)) is not None:
                replaced.setdefault(c.get_uid(), set()).add(self.moment(prop.get_datetime_with_component(c)))
        for c in events:
            how = kind_of(self.text(c, kind.STATUS_PROPERTY), self.text(c, kind.TRANSP_PROPERTY))
            if how:
                for first, last in self.dates(c, end):
                    if c.get_first_property(kind.RECURRENCEID_PROPERTY) is not None or first not in replaced.get(c.get_uid(), ()):
                        yield first, last, how
        for c in self.children(parsed, ical.ComponentKind.VFREEBUSY_COMPONENT):
            for prop in self.properties(c, kind.FREEBUSY_PROPERTY):
                how = BUSY[prop.get_parameter_as_string("FBTYPE") or "BUSY"]
                for value in prop.get_value_as_string().split(","):
                    period = ical.Period.new_from_string(value)
                    first = self.moment(period.get_start())
                    length = period.get_duration().as_int()
                    if how:
                        yield first, first + timedelta(seconds=length) if length else self.moment(period.get_end()), how

    def children(self, c, kind):
        child = c.get_first_component(kind)
        while child is not None:
            yield child
            child = c.get_next_component(kind)

    def properties(self, c, kind):
        prop = c.get_first_property(kind)
        while prop is not None:
            yield prop
            prop = c.get_next_property(kind)

    def text(self, c, kind):
        prop = c.get_first_property(kind)
        return prop.get_value_as_string() if prop is not None else ""

    def moment(self, t):
        if t.is_date() or t.get_timezone() is None and not t.is_utc():
            return utc(datetime(t.get_year(), t.get_month(), t.get_day(), t.get_hour(), t.get_minute(), t.get_second(), tzinfo=self.zone))
        zone = self.ical.Timezone.get_utc_timezone() if t.is_utc() else t.get_timezone()
        return datetime.fromtimestamp(t.as_timet_with_zone(zone), UTC)

    def dates(self, c, end):
        ical, kind = self.ical, self.ical.PropertyKind
        first = c.get_first_property(kind.DTSTART_PROPERTY).get_datetime_with_component(c)

        def here(text):
            t = ical.Time.new_from_string(text)
            if not t.is_utc() and not t.is_date() and first.get_timezone() is not None:
                t.set_timezone(first.get_timezone())
            elif first.is_utc():
                t.set_timezone(ical.Timezone.get_utc_timezone())
            return t

        starts, periods, left = {self.moment(first): first}, [], set()
        for prop in self.properties(c, kind.RRULE_PROPERTY):
            iterator = ical.RecurIterator.new(prop.get_rrule(), first)
            while (t := iterator.next()) is not None and not t.is_null_time():
                t = here(t.as_ical_string())
                if self.moment(t) >= end + timedelta(days=2):
                    break
                starts[self.moment(t)] = t
        for prop in self.properties(c, kind.RDATE_PROPERTY):
            for value in prop.get_value_as_string().split(","):
                if "/" in value:
                    begin, _, rest = value.partition("/")
                    begin = self.moment(here(begin))
                    length = ical.Duration.new_from_string(rest).as_int() if rest.startswith("P") else None
                    periods.append((begin, begin + timedelta(seconds=length) if length is not None else self.moment(here(rest))))
                else:
                    starts[self.moment(here(value))] = here(value)
        for prop in self.properties(c, kind.EXDATE_PROPERTY):
            for value in prop.get_value_as_string().split(","):
                left.add(self.moment(here(value)))
        dtend = c.get_first_property(kind.DTEND_PROPERTY)
        length = self.text(c, kind.DURATION_PROPERTY)
        exact = self.moment(dtend.get_datetime_with_component(c)) - self.moment(first) if dtend is not None else None
        yield from periods
        for at, t in starts.items():
            if at in left:
                continue
            if first.is_date() or length:
                d = ical.Duration.new_from_string(length) if length else None
                days = d.get_weeks() * 7 + d.get_days() if d else (exact.days if exact and exact.seconds == 0 else round(exact / timedelta(days=1)) if exact else 1)
                rest = d.get_hours() * 3600 + d.get_minutes() * 60 + d.get_seconds() if d else 0
                moved = here(t.as_ical_string())
                moved.adjust(days, 0, 0, 0)
                yield at, self.moment(moved) + timedelta(seconds=rest)
            else:
                yield at, at + (exact or timedelta(0))


def merged(times, start, end):
    """Each instant once: busy before leave before maybe."""
    edges = sorted({start, end} | {min(max(x, start), end) for first, last, _ in times for x in (first, last)})
    out = []
    rank = ["busy", "leave", "maybe"]
    for a, b in zip(edges, edges[1:]):
        kinds = [k for first, last, k in times if first <= a and b <= last]
        if not kinds:
            continue
        kind = min(kinds, key=rank.index)
        if out and out[-1][2] == kind and out[-1][1] == a:
            out[-1][1] = b
        else:
            out.append([a, b, kind])
    return [[a.strftime("%Y-%m-%dT%H:%M:%SZ"), b.strftime("%Y-%m-%dT%H:%M:%SZ"), k] for a, b, k in out]


library = {"icalendar": WithIcalendar, "libical": WithLibical}[sys.argv[1]]()
answers, questions, began = [], json.load(sys.stdin), time.perf_counter()
for q in questions:
    start, end = (datetime.strptime(q[k], "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC) for k in ("from", "to"))
    try:
        answers.append(merged(list(library.times(q["ics"], start, end, ZoneInfo(q["zone"]))), start, end))
    except Exception as error:
        answers.append([["", "", f"{type(error).__name__}: {error}"]])
json.dump(time.perf_counter() - began if "timed" in sys.argv else answers, sys.stdout)
