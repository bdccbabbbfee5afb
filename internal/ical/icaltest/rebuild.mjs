// Builds calendars from iTIP messages alone with ical.js, which is not Jembro's; input and answer are those of rebuild.py.
// Usage: node rebuild.mjs <path of ical.js> < boxes.json
import { readFileSync } from "node:fs";
import { pathToFileURL } from "node:url";

const { default: ICAL } = await import(pathToFileURL(process.argv.at(-1)));
const untilYear = 2029;
const iso = (seconds) => new Date(seconds * 1000).toISOString().replace(".000", "");
const unix = (time) => time.toUnixTime();

function read(text) {
	const calendar = new ICAL.Component(ICAL.parse(text));
	for (const zone of calendar.getAllSubcomponents("vtimezone")) {
		const tzid = zone.getFirstPropertyValue("tzid");
		ICAL.TimezoneService.remove(tzid);
		ICAL.TimezoneService.register(zone);
	}
	const events = calendar.getAllSubcomponents("vevent").map((component) => {
		const e = new ICAL.Event(component, { strictExceptions: true });
		const start = unix(e.startDate);
		const value = (name) => component.getFirstPropertyValue(name) ?? "";
		const answers = component
			.getAllProperties("attendee")
			.filter((a) => a.getParameter("cutype") === "INDIVIDUAL")
			.map((a) => `${a.getFirstValue().slice(7)}:${a.getParameter("partstat")}`)
			.sort()
			.join(" ");
		const length = component.hasProperty("duration") ? value("duration").toSeconds() : unix(e.endDate) - start;
		const shown = { uid: e.uid, summary: value("summary"), location: value("location"), conference: String(value("conference")), text: value("description"), answers };
		const recurrence = component.hasProperty("recurrence-id") ? unix(component.getFirstPropertyValue("recurrence-id")) : null;
		return { component, start, length, shown, recurrence, uid: e.uid, version: [e.sequence, iso(unix(value("dtstamp")))] };
	});
	return { method: calendar.getFirstPropertyValue("method"), events };
}

function expand(e) {
	const event = new ICAL.Event(e.component);
	if (!event.isRecurring()) return [e.start];
	const dates = [];
	const iterator = event.iterator();
	for (let next = iterator.next(); next && next.year < untilYear; next = iterator.next()) dates.push(unix(next));
	return dates;
}

class Calendar {
	constructor(keeps) {
		Object.assign(this, { keeps, masters: new Map(), dates: new Map(), gone: new Map(), known: new Map() });
	}
	take(method, events) {
		const uid = events[0].uid;
		const version = events[0].version;
		const known = this.known.get(uid);
		if (known && !(known[0] < version[0] || (known[0] === version[0] && known[1] < version[1]))) throw new Error(`no newer than ${known}: ${version}`);
		this.known.set(uid, version);
		if (!this.dates.has(uid)) {
			this.dates.set(uid, new Map());
			this.gone.set(uid, new Set());
		}
		const dates = this.dates.get(uid);
		const gone = this.gone.get(uid);
		const whole = events.some((e) => e.recurrence === null);
		if (whole && (method === "CANCEL" || !this.keeps)) {
			dates.clear();
			gone.clear();
		}
		for (const e of events) {
			if (method === "CANCEL") {
				if (e.recurrence === null) this.masters.delete(uid);
				else {
					dates.delete(e.recurrence);
					gone.add(e.recurrence);
				}
			} else if (e.recurrence === null) this.masters.set(uid, e);
			else {
				dates.set(e.recurrence, e);
				gone.delete(e.recurrence);
			}
		}
	}
	show(until) {
		const shown = [];
		const add = (e, start) => shown.push({ ...e.shown, start: iso(start), end: iso(start + e.length) });
		for (const [uid, master] of this.masters)
			for (const start of expand(master)) if (!this.dates.get(uid).has(start) && !this.gone.get(uid).has(start)) add(master, start);
		for (const dates of this.dates.values()) for (const e of dates.values()) add(e, e.start);
		const key = (s) => s.start + s.uid;
		return shown.filter((s) => s.start < until).sort((a, b) => (key(a) < key(b) ? -1 : 1));
	}
}

const asked = JSON.parse(readFileSync(0, "utf8"));
const answer = asked.boxes.map((box) => {
	const calendars = { keep: new Calendar(true), whole: new Calendar(false) };
	return box.map((messages) => {
		for (const text of messages) {
			const { method, events } = read(text);
			for (const calendar of Object.values(calendars)) calendar.take(method, events);
		}
		return { keep: calendars.keep.show(asked.until), whole: calendars.whole.show(asked.until) };
	});
});
console.log(JSON.stringify(answer));
