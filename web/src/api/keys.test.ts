import { expect, test } from "vitest";
import { keys, shows } from "./keys";

test.each([
	["a meeting that changed is read again", keys.meeting("1"), { topic: "meeting", id: "1" }, true],
	["another meeting is not", keys.meeting("2"), { topic: "meeting", id: "1" }, false],
	["a week may show it", keys.week("2026-11-23"), { topic: "meeting", id: "1" }, true],
	["so may everybody's day", keys.day({ day: "2026-11-24" }), { topic: "meeting", id: "1" }, true],
	["who is signed in has nothing to do with it", keys.me, { topic: "all" }, false],
	["a sheet saved elsewhere", keys.sheet("7"), { topic: "sheet", id: "7" }, true],
	["is in the list", keys.sheets, { topic: "sheet", id: "7" }, true],
	["and in no week", keys.week("2026-11-23"), { topic: "sheet", id: "7" }, false],
	["what may have been missed is read again", keys.week("2026-11-23"), { topic: "all" }, true],
	["one's hours move the openings of a series", keys.seriesOpenings("7", {}), { topic: "hours" }, true],
	["a topic that this window does not know", keys.meeting("1"), { topic: "weather" }, false],
])("%s", (_, key, notice, want) => expect(shows(key, notice)).toBe(want));
