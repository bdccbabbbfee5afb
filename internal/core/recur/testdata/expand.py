"""Expands recurrence rules with a library that is not Jembro's.

Usage: expand.py dateutil|libical < questions.jsonl
Each line {"rrule": ..., "dtstart": "20260105T093000", "limit": n} is answered by a JSON list of local times.
"""
import itertools
import json
import sys


def with_dateutil(question):
    from dateutil.parser import isoparse
    from dateutil.rrule import rrulestr

    rule = rrulestr(question["rrule"], dtstart=isoparse(question["dtstart"]))
    return [d.strftime("%Y%m%dT%H%M%S") for d in itertools.islice(rule, question["limit"])]


def with_libical(question):
    import gi

    gi.require_version("ICalGLib", "3.0")
    from gi.repository import ICalGLib as ical

    rule = ical.Recurrence.new_from_string(question["rrule"])
    iterator = ical.RecurIterator.new(rule, ical.Time.new_from_string(question["dtstart"]))
    dates = []
    while len(dates) < question["limit"]:
        moment = iterator.next()
        if moment is None or moment.is_null_time():
            break
        dates.append(moment.as_ical_string())
    return dates


expand = {"dateutil": with_dateutil, "libical": with_libical}[sys.argv[1]]
for line in sys.stdin:
    print(json.dumps(expand(json.loads(line))), flush=True)
