import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { text } from "../test/drawn";
import { PeopleTable } from "./PeopleTable";

type Participant = Schemas["Participant"];
type Dispatch = Schemas["Dispatch"];

const sent = (change: Partial<Dispatch>): Dispatch => ({
	id: "d",
	kind: "invite",
	channel: "mail",
	state: "handed",
	stage: "delivered",
	detail: "",
	at: "2026-11-23T14:02:00Z",
	...change,
});
const onari = (change: Partial<Participant> = {}): Participant => ({
	id: "o",
	name: "S. Onari",
	email: "s.onari@kirisame.example",
	outside: true,
	needed: true,
	answer: "none",
	comment: "",
	...change,
});
const table = (participants: Participant[], change: object = {}) =>
	text(
		<PeopleTable
			m={
				{
					id: "m",
					mine: true,
					start: "2026-12-03T09:30:00Z",
					organiser: { name: "Ilse Marrant", email: "ilse.marrant@marrowby.example" },
					participants,
					...change,
				} as unknown as Schemas["Meeting"]
			}
		/>,
	);

describe("who is invited", () => {
	it.each<[string, Partial<Dispatch>, string]>([
		["in the mailbox", {}, "e-mail in the mailbox 23 Nov 14:02"],
		["handed over", { stage: "handed" }, "e-mail handed over 23 Nov 14:02"],
		["opened", { stage: "seen" }, "e-mail opened 23 Nov 14:02"],
		["a change", { kind: "update", stage: "relayed" }, "change e-mail taken by their server 23 Nov 14:02"],
		["called off", { kind: "calloff" }, "cancellation e-mail in the mailbox 23 Nov 14:02"],
		["inside", { channel: "inside" }, "in Jembro, 23 Nov 14:02"],
		["a change inside", { channel: "inside", kind: "update" }, "change in Jembro, 23 Nov 14:02"],
		["mended", { state: "mended", detail: "told by telephone" }, "e-mail came back; told by telephone"],
		["refused", { state: "failed", detail: "550 5.7.1" }, "not delivered 550 5.7.1"],
		["under way", { state: "open", detail: "451 4.4.1" }, "under way 451 4.4.1"],
	])("the organiser sees how the newest message went out: %s", (_, change, says) => {
		expect(table([onari({ dispatch: sent(change) })])).toContain(says);
	});

	it("nobody else sees that, but who organises it", () => {
		const said = table([onari({ dispatch: sent({}) })], { mine: false });
		expect(said).not.toContain("e-mail");
		expect(said).toContain("Ilse Marrant ilse.marrant@marrowby.exampleorganises");
	});

	it("says what each is to the meeting", () => {
		const said = table([
			onari({ needed: false, instead: "K. Abe", dates: "28 January only", zone: "Asia/Tokyo" }),
			onari({ id: "p", broughtBy: "S. Onari", sends: "K. Abe" }),
		]);
		expect(said).toContain(
			"optional · in place of K. Abe · 28 January only · s.onari@kirisame.example · 18:30 in Tokyo",
		);
		expect(said).toContain("needed · brought by S. Onari");
		expect(said).toContain("sends K. Abe");
	});

	it("counts the answers; who was not reached is not silent", () => {
		const people = [
			onari({ answer: "accepted" }),
			onari({ id: "2", answer: "maybe", comment: "Perhaps by phone." }),
			onari({ id: "3" }),
			onari({ id: "4", dispatch: sent({ state: "failed" }) }),
		];
		const said = table(people);
		expect(said).toContain("1 accepted · 1 maybe · 1 silent · 1 not reached");
		expect(said).toContain("“Perhaps by phone.”");
	});

	it("lists answers to single dates", () => {
		const answersOn = [{ on: "2026-12-10", answer: "declined" as const, comment: "Ferry." }];
		expect(table([onari({ answersOn })])).toContain("10 Dec: declined “Ferry.”");
	});

	it("says so where nobody else is invited", () => {
		expect(table([])).toContain("Nobody else is invited. Change the meeting to add people.");
	});
});
