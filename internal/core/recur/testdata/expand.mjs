// Expands recurrence rules with ical.js, which is not Jembro's: questions as JSON lines in, a JSON list of local times a line out.
// Usage: node expand.mjs <path of ical.js> < questions.jsonl
import { readFileSync } from "node:fs";
import { pathToFileURL } from "node:url";

const { default: ICAL } = await import(pathToFileURL(process.argv[2]));
for (const line of readFileSync(0, "utf8").split("\n")) {
	if (!line) continue;
	const { rrule, dtstart, limit } = JSON.parse(line);
	const start = ICAL.Time.fromString(dtstart.replace(/(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)/, "$1-$2-$3T$4:$5:$6"));
	const dates = [];
	try {
		const iterator = ICAL.Recur.fromString(rrule).iterator(start);
		for (let next = iterator.next(); next && dates.length < limit; next = iterator.next())
			dates.push(next.toICALString());
	} catch (refused) {
		dates.push(String(refused));
	}
	console.log(JSON.stringify(dates));
}
