import createClient from "openapi-fetch";
import { t } from "../tongue/tongue";
import { ask } from "./awake";
import type { components, paths } from "./contract.gen";
import { thisWindow } from "./window";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];

/** A refusal of the program, with a sentence that the user can act on. */
export class ProblemError extends Error {
	constructor(readonly problem: Problem) {
		super(problem.detail ?? problem.title);
	}
	get kind() {
		return this.problem.type.replace("/problems/", "");
	}
}

/** The problem behind any error; a lost connection is one too. */
export function problemOf(error: unknown): Problem {
	if (error instanceof ProblemError) return error.problem;
	return {
		type: "/problems/offline",
		title: t("No connection"),
		status: 0,
		detail: t("Jembro does not answer. What you wrote is still here; it tries again by itself."),
	};
}

/** In which order this browser's region writes a day in numbers; days that are typed so are read like that. */
function dayOrder() {
	const parts = new Intl.DateTimeFormat(undefined, {
		year: "numeric",
		month: "numeric",
		day: "numeric",
	}).formatToParts();
	return parts.flatMap((p) => ({ year: "y", month: "m", day: "d" })[p.type as string] ?? []).join("");
}

/** What a problem says about a field, or the first of some fields that it names. */
export const faultIn = (problem: Problem | null | undefined, ...fields: string[]) =>
	problem?.errors?.find((e) => fields.includes(e.field))?.detail;

export const api = createClient<paths>({
	baseUrl: "/",
	headers: { "Jembro-Window": thisWindow, "Jembro-Days": dayOrder() },
	fetch: ask,
});

/** The language of the page, which its refusals are written in as well; "" where the program knows it. */
export const reading = { language: "" };

api.use({
	onRequest({ request }) {
		if (reading.language) request.headers.set("Jembro-Language", reading.language);
	},
});

/** Hears that the program no longer knows who asks: somebody signed out, here or in another window. */
export const signedOut = { hear: () => {} };

type Result<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or its problem thrown. */
export async function take<T>(call: Promise<Result<T>>): Promise<T> {
	const { data, error, response } = await call;
	if (response.ok) return data as T;
	if (response.status === 401 && !/\/api\/(session|me)$/.test(response.url)) signedOut.hear();
	if (error && typeof error === "object" && "type" in error) throw new ProblemError(error as Problem);
	throw new ProblemError({
		type: "/problems/internal",
		title: t("Something broke"),
		status: response.status,
		detail: t("Something broke on the way. What you wrote is kept; try again."),
	});
}
