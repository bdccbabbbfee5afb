import { expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { spoken } from "./spoken";

const meeting = (change: Partial<Schemas["WeekMeeting"]>): Schemas["WeekMeeting"] => ({
	id: "m",
	on: "2026-11-24",
	series: false,
	title: "Crate sizes, loan 14",
	start: "2026-11-24T10:30:00Z",
	end: "2026-11-24T11:30:00Z",
	standing: "mine",
	organiser: "Ilse Marrant",
	link: false,
	private: false,
	...change,
});

it.each<[string, Partial<Schemas["WeekMeeting"]>, string]>([
	["one's own", {}, "until 11:30, yours"],
	[
		"with all that a mark shows",
		{ link: true, series: true, private: true },
		"until 11:30, with a link, repeats, private, yours",
	],
	["over midnight", { end: "2026-11-25T01:00:00Z" }, "until Wed 25 Nov 1:00, yours"],
	["not delivered", { standing: "broken" }, "until 11:30, yours, an invitation was not delivered"],
	["asked", { standing: "unanswered" }, "until 11:30, you have not answered"],
	[
		"whole days end on the last of them",
		{ allDay: true, start: "2026-11-24T00:00:00Z", end: "2026-11-27T00:00:00Z", standing: "declined" },
		"until Thu 26 Nov, you declined",
	],
])("a mark says what its shape means: %s", (_, change, says) => {
	expect(spoken(meeting(change), "Europe/Lisbon")).toBe(says);
});
