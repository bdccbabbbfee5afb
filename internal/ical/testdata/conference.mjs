// Prints the CONFERENCE properties of a calendar as ical.js reads them.
// Usage: node conference.mjs <path of ical.js> < calendar.ics
import { readFileSync } from "node:fs";
import { pathToFileURL } from "node:url";

const { default: ICAL } = await import(pathToFileURL(process.argv.at(-1)));
const calendar = new ICAL.Component(ICAL.parse(readFileSync(0, "utf8")));
const said = (p, name) => [p.getParameter(name) ?? ""].flat().join(",");
const found = calendar
	.getAllSubcomponents("vevent")
	.flatMap((e) => e.getAllProperties("conference"))
	.map((p) => ({ uri: String(p.getFirstValue()), type: p.type.toUpperCase(), feature: said(p, "feature"), label: said(p, "label") }));
console.log(JSON.stringify(found));
