import { expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { spokenUse } from "./spokenUse";

type Use = Schemas["RoomUse"];

const use = (change: Partial<Use>): Use => ({
	start: "2026-11-24T10:30:00Z",
	end: "2026-11-24T11:30:00Z",
	private: false,
	mine: false,
	kind: "booked",
	by: "Tomé Akande",
	...change,
});

it.each<[string, Partial<Use>, string]>([
	["of somebody who shows no titles", {}, "Tomé Akande"],
	["of somebody who shows them", { title: "Mount trial" }, "Mount trial · Tomé Akande"],
	["one's own needs no name", { mine: true, title: "Mount trial" }, "Mount trial"],
	["private: neither who nor what", { private: true, by: undefined }, "private"],
	["private, and one's own", { private: true, mine: true, title: "Pay review" }, "Pay review"],
	["asked of the keeper", { kind: "asked" }, "Tomé Akande · asked"],
	["asked, private", { kind: "asked", private: true, by: undefined }, "private · asked"],
	["held by somebody", { kind: "hold", until: "2026-11-24T10:45:00Z" }, "held by Tomé Akande until 10:45"],
	[
		"held by who is not named",
		{ kind: "hold", by: undefined, until: "2026-11-24T10:45:00Z" },
		"held by somebody until 10:45",
	],
	["held by oneself", { kind: "hold", mine: true, until: "2026-11-24T10:45:00Z" }, "held by you until 10:45"],
])("who has a room: %s", (_, change, says) => {
	expect(spokenUse(use(change), "Europe/Lisbon")).toBe(says);
});
