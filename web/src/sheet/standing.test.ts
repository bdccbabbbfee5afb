import { describe, expect, test } from "vitest";
import { meantWords, reach, type Standing, standings } from "./standing";

/** A sheet on which everything is settled, changed where a test needs it. */
function sheet(change: {
	sheet?: Partial<Standing["sheet"]>;
	draft?: Partial<Standing["draft"]>;
	day?: object;
	dates?: object[];
}): Standing {
	const base = {
		sheet: {
			faults: [],
			unclear: [],
			due: [],
			card: { name: "Tern" },
			link: { ways: [], over: [], overlaps: [] },
			draft: { title: "Crate sizes" },
			...change.sheet,
		},
		draft: { people: [{ name: "Tomé Akande" }], roomId: "r1", noRoom: false, noLink: false, ...change.draft },
		day: { troubles: [], lanes: [], rooms: [{ room: { id: "r1", name: "Map Room" }, clear: true }], ...change.day },
		dates: change.dates && { dates: change.dates },
	};
	return base as unknown as Standing;
}

const open = (s: Standing) =>
	standings(s)
		.filter((x) => x.open)
		.map((x) => `${x.name}: ${x.open}${x.broken ? "!" : ""}`);

const fault = (field: string, detail = "wrong") => ({ field, detail });

describe("what is still open", () => {
	test("nothing, where all is settled", () => {
		expect(open(sheet({}))).toEqual([]);
		expect(standings(sheet({})).map((s) => s.name)).toEqual(["When", "Who", "Where", "Link"]);
	});

	test.each([
		[
			"a fault of any time field",
			{ sheet: { faults: [fault("dates.2027-01-14.start", "Ends before it starts.")] } },
			["When: Ends before it starts.!"],
		],
		[
			"one who cannot",
			{ day: { troubles: [{ blocks: true, email: "a", name: "Rui", short: "is away" }] } },
			["When: Rui is away"],
		],
		[
			"oneself",
			{
				day: {
					troubles: [{ blocks: true, email: "me", name: "Ilse", short: "are busy then" }],
					lanes: [{ you: true, email: "me" }],
				},
			},
			["When: you are busy then"],
		],
		[
			"several who cannot",
			{ day: { troubles: [{ blocks: true }, { blocks: true }, { blocks: false }] } },
			["When: 2 cannot"],
		],
		["who may, or need not", { day: { troubles: [{ blocks: false, name: "Rui" }] } }, []],
		["who is meant", { sheet: { unclear: [{}], faults: [fault("unclear")] } }, ["Who: say who is meant!"]],
		["nobody else", { draft: { people: [] } }, ["Who: only you"]],
		[
			"a room that is taken",
			{ day: { rooms: [{ room: { id: "r1", name: "Map Room" }, clear: false }] } },
			["Where: Map Room is taken!"],
		],
		["no room", { draft: { roomId: "" } }, ["Where: no room yet"]],
		["none needed", { draft: { roomId: "", noRoom: true } }, []],
		["no link", { sheet: { card: undefined } }, ["Link: none yet"]],
		["none wanted", { sheet: { card: undefined }, draft: { noLink: true } }, []],
		["one that follows", { sheet: { card: { follows: "x" } } }, ["Link: follows"]],
		[
			"another way in its words",
			{ sheet: { link: { ways: [{ field: "text" }], over: [], overlaps: [] }, faults: [fault("text")] } },
			["Link: two ways in!"],
		],
		["more than the plan has", { sheet: { link: { ways: [], over: [{}], overlaps: [] } } }, ["Link: over the plan"]],
		["a standing room in use", { sheet: { link: { ways: [], over: [], overlaps: ["x"] } } }, ["Link: room in use"]],
		["no title", { sheet: { faults: [fault("title")], draft: { title: " " } } }, ["Title: none yet!"]],
		["a title that is too long", { sheet: { faults: [fault("title")] } }, ["Title: too long!"]],
		["words before the message", { sheet: { faults: [fault("cover")] } }, ["Text: too long!"]],
		["files", { sheet: { faults: [fault("files", "30 MB are too much.")] } }, ["Files: 30 MB are too much.!"]],
	])("%s", (_, change, want) => {
		expect(open(sheet(change as unknown as Parameters<typeof sheet>[0]))).toEqual(want);
	});

	test("dates of a series, and only those that are meant", () => {
		const date = (state: string, inScope = true) => ({ state, inScope, scope: "" });
		expect(open(sheet({ dates: [date("busy"), date("ok"), date("busy", false)] }))).toEqual(["When: 1 date clashes"]);
		expect(open(sheet({ dates: [date("busy"), date("busy")] }))).toEqual(["When: 2 dates clash"]);
		expect(open(sheet({ dates: [date("noroom"), date("noroom")] }))).toEqual(["Where: 2 dates without a room!"]);
		const taken = { rooms: [{ room: { id: "r1", name: "Map Room" }, clear: false }] };
		expect(open(sheet({ dates: [date("ok")], day: taken })), "the first day alone says nothing of all").toEqual([]);
	});
});

describe("whom Send reaches", () => {
	const due = (name: string, more: object = {}) => ({ name, kind: "invite", outside: false, whole: true, ...more });
	const to = (list: object[], more: object = {}, day?: object) =>
		reach(sheet({ sheet: { due: list as Standing["sheet"]["due"], ...more }, ...(day && { day }) }));

	test("few are named", () => {
		expect(to([due("Tomé Akande"), due("S. Onari", { outside: true })])).toBe(
			"Goes to Tomé Akande, S. Onari (outside); books Map Room",
		);
		expect(to([])).toBe("Goes to nobody else; books Map Room");
	});

	test("many are counted", () => {
		const many = ["a", "b", "c"].map((n) => due(n));
		expect(to([...many, due("d", { outside: true })])).toBe("Goes to 4 people (1 outside); books Map Room");
		expect(to([due("a"), due("a", { kind: "update" })])).toBe("Goes to a, 2 messages; books Map Room");
	});

	test("a room that asks its keeper is asked for", () => {
		const day = { rooms: [{ room: { id: "r1", name: "Map Room" }, clear: true, asks: "Its keeper agrees." }] };
		expect(to([due("a")], {}, day)).toBe("Goes to a; asks for Map Room");
	});

	test("a change says who comes and goes", () => {
		const change = { meetingId: "m" };
		expect(to([], change)).toBe("Nobody has to hear of it");
		expect(to([due("a", { kind: "calloff" })], change)).toBe("Goes to a (dropped)");
		const all = ["a", "b", "c", "d", "e"].map((n) => due(n));
		expect(to([...all, due("f", { kind: "calloff" }), due("g", { kind: "update" })], change)).toBe(
			"Goes to 7 people (0 outside); adds a, b and 3 more; drops f",
		);
	});

	test("nobody, while there are faults", () => {
		expect(to([due("a")], { faults: [fault("title")] })).toBe("Not ready to send");
	});
});

describe("which dates are meant", () => {
	const scope = (from: string, to: string) => ({ from, to, at: from });
	const dates = ["2027-01-07", "2027-01-14"].map((on) => ({ scope: on, state: "ok" })) as unknown as Parameters<
		typeof meantWords
	>[1];

	test.each([
		[scope("2027-01-14", "2027-01-14"), "Only Thu 14 Jan"],
		[scope("2027-01-14", "2027-01-28"), "Thu 14 Jan to Thu 28 Jan"],
		[scope("2027-01-14", ""), "From Thu 14 Jan on"],
		[scope("2027-01-07", ""), "All dates to come"],
	])("%o", (of, want) => {
		expect(meantWords(of, dates)).toBe(want);
	});

	test("what was held does not count", () => {
		const held = [{ scope: "2027-01-07", state: "held" }, ...(dates?.slice(1) ?? [])] as typeof dates;
		expect(meantWords(scope("2027-01-14", ""), held)).toBe("All dates to come");
	});
});
