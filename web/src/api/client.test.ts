import { afterEach, describe, expect, it, vi } from "vitest";
import { faultIn, ProblemError, problemOf, signedOut, take } from "./client";

const answer = (status: number, url = "https://jembro.example/api/sheets") =>
	({ ok: status < 300, status, url }) as Response;
const problem = { type: "/problems/invalid", title: "Not valid", status: 422, detail: "Look again.", errors: [] };
const caught = (call: Promise<unknown>) => call.then(() => undefined).catch((e: unknown) => e);

afterEach(() => {
	signedOut.hear = () => {};
});

describe("an answer of the program", () => {
	it("is its data", async () => {
		expect(await take(Promise.resolve({ data: { a: 1 }, response: answer(200) }))).toEqual({ a: 1 });
		expect(await take(Promise.resolve({ response: answer(204) }))).toBeUndefined();
	});

	it("is thrown where it is a problem, as it was said", async () => {
		const error = await caught(take(Promise.resolve({ error: problem, response: answer(422) })));
		expect(error).toBeInstanceOf(ProblemError);
		expect(problemOf(error)).toEqual(problem);
		expect((error as ProblemError).kind).toBe("invalid");
	});

	it.each([undefined, "", "<html>504</html>", null, {}])(
		"is one that something broke, where %j came",
		async (error) => {
			const said = problemOf(await caught(take(Promise.resolve({ error, response: answer(504) }))));
			expect(said).toMatchObject({
				status: 504,
				detail: "Something broke on the way. What you wrote is kept; try again.",
			});
		},
	);

	it("that nobody is signed in is heard once by who has to know, and not from what asks just that", async () => {
		signedOut.hear = vi.fn();
		await caught(take(Promise.resolve({ error: problem, response: answer(401) })));
		expect(signedOut.hear).toHaveBeenCalledOnce();
		for (const path of ["session", "me"])
			await caught(
				take(Promise.resolve({ error: problem, response: answer(401, `https://jembro.example/api/${path}`) })),
			);
		expect(signedOut.hear).toHaveBeenCalledOnce();
	});
});

it("a lost connection is a problem, too: what was written is still there", () => {
	expect(problemOf(new TypeError("Failed to fetch"))).toMatchObject({ status: 0, type: "/problems/offline" });
});

it("a problem names its fields", () => {
	const errors = [
		{ field: "title", detail: "Too long." },
		{ field: "day", detail: "No such day." },
	];
	expect(faultIn({ ...problem, errors } as never, "day", "start")).toBe("No such day.");
	expect(faultIn({ ...problem, errors } as never, "room")).toBeUndefined();
	expect(faultIn(null, "day")).toBeUndefined();
});
