"""Reads a raw mail on standard input with a library that is not Jembro's, and prints what it finds as JSON.

Usage: read_invitation.py icalendar|libical < message.eml
"""
import datetime
import email
import email.policy
import json
import sys


def calendar_part(raw):
    message = email.message_from_bytes(raw, policy=email.policy.default)
    parts = [p for p in message.walk() if p.get_content_type() == "text/calendar" and not p.is_attachment()]
    if len(parts) != 1:
        sys.exit(f"{len(parts)} text/calendar parts")
    return parts[0].get_payload(decode=True), message.defects


def utc(moment):
    return moment.astimezone(datetime.timezone.utc).strftime("%Y-%m-%dT%H:%M:%SZ")


def unescape6868(text):
    """RFC 6868; neither library version in Debian 12 undoes it."""
    out, i = "", 0
    while i < len(text):
        pair = text[i : i + 2]
        if pair in ("^n", "^'", "^^"):
            out, i = out + {"^n": "\n", "^'": '"', "^^": "^"}[pair], i + 2
        else:
            out, i = out + text[i], i + 1
    return out


def with_icalendar(raw):
    import icalendar

    calendar = icalendar.Calendar.from_ical(raw)
    event = calendar.walk("VEVENT")[0]
    errors = [str(e) for c in calendar.walk() for e in c.errors]
    attendees = event.get("ATTENDEE", [])
    if not isinstance(attendees, list):
        attendees = [attendees]
    alarms = event.walk("VALARM")
    start, end = event["DTSTART"], event["DTEND"]
    return dict(
        Method=str(calendar["METHOD"]), UID=str(event["UID"]), Sequence=int(event["SEQUENCE"]), Summary=str(event["SUMMARY"]),
        Description=str(event["DESCRIPTION"]), Location=str(event["LOCATION"]), Organizer=str(event["ORGANIZER"]),
        Start=utc(start.dt), End=utc(end.dt), TZID=start.params.get("TZID", "UTC"),
        Attendees=[dict(Address=str(a), CN=unescape6868(a.params.get("CN", "")), Role=a.params.get("ROLE", ""), Partstat=a.params.get("PARTSTAT", ""),
                        Cutype=a.params.get("CUTYPE", ""), RSVP=a.params.get("RSVP", "")) for a in attendees],
        Conference=str(event.get("CONFERENCE", "")), Alarm=alarms[0]["TRIGGER"].to_ical().decode() if alarms else "", Errors=errors)


def with_libical(raw):
    import gi

    gi.require_version("ICalGLib", "3.0")
    from gi.repository import ICalGLib as ical

    calendar = ical.Component.new_from_string(raw.decode())
    if calendar is None:
        sys.exit("libical cannot parse it")
    errors = []

    def properties(component, kind):
        found = component.get_first_property(kind)
        while found is not None:
            yield found
            found = component.get_next_property(kind)

    def complain(component):
        for p in properties(component, ical.PropertyKind.XLICERROR_PROPERTY):
            errors.append(p.as_ical_string())
        child = component.get_first_component(ical.ComponentKind.ANY_COMPONENT)
        while child is not None:
            complain(child)
            child = component.get_next_component(ical.ComponentKind.ANY_COMPONENT)

    if not calendar.check_restrictions():  # the tables of RFC 5546, 3.2
        errors.append("a restriction of the method is not met")
    complain(calendar)
    event = calendar.get_first_component(ical.ComponentKind.VEVENT_COMPONENT)

    def moment(kind):
        prop = event.get_first_property(kind)
        time = prop.get_dtstart() if kind == ical.PropertyKind.DTSTART_PROPERTY else prop.get_dtend()
        parameter = prop.get_first_parameter(ical.ParameterKind.TZID_PARAMETER)
        tzid = parameter.get_tzid() if parameter else "UTC"
        zone = calendar.get_timezone(tzid) if parameter else ical.Timezone.get_utc_timezone()
        if zone is None:
            errors.append("no VTIMEZONE " + tzid)
            zone = ical.Timezone.get_utc_timezone()
        seconds = time.as_timet_with_zone(zone)
        return utc(datetime.datetime.fromtimestamp(seconds, datetime.timezone.utc)), tzid

    def parameter(prop, name):
        return (prop.get_parameter_as_string(name) or "").strip('"')

    start, tzid = moment(ical.PropertyKind.DTSTART_PROPERTY)
    end, _ = moment(ical.PropertyKind.DTEND_PROPERTY)
    conference = next((p.get_value_as_string() for p in properties(event, ical.PropertyKind.ANY_PROPERTY) if p.get_property_name() == "CONFERENCE"), "")
    alarm = event.get_first_component(ical.ComponentKind.VALARM_COMPONENT)
    trigger = alarm.get_first_property(ical.PropertyKind.TRIGGER_PROPERTY).get_value_as_string() if alarm else ""
    return dict(
        Method=calendar.get_first_property(ical.PropertyKind.METHOD_PROPERTY).get_value_as_string(), UID=event.get_uid(),
        Sequence=event.get_sequence(), Summary=event.get_summary(), Description=event.get_description(), Location=event.get_location(),
        Organizer=event.get_first_property(ical.PropertyKind.ORGANIZER_PROPERTY).get_organizer(),
        Start=start, End=end, TZID=tzid,
        Attendees=[dict(Address=p.get_attendee(), CN=unescape6868(parameter(p, "CN")), Role=parameter(p, "ROLE"), Partstat=parameter(p, "PARTSTAT"),
                        Cutype=parameter(p, "CUTYPE"), RSVP=parameter(p, "RSVP")) for p in properties(event, ical.PropertyKind.ATTENDEE_PROPERTY)],
        Conference=conference, Alarm=trigger, Errors=errors)


raw, defects = calendar_part(sys.stdin.buffer.read())
found = {"icalendar": with_icalendar, "libical": with_libical}[sys.argv[1]](raw)
found["Errors"] += [str(d) for d in defects]
print(json.dumps(found))
