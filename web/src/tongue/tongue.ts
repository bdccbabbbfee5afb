type Arg = string | number | null | undefined;

declare const isTerm: unique symbol;
/** A sentence of the catalogue that is written in one place and said with t in another. */
export type Term = { readonly [isTerm]: true };

/** The language that one page speaks: its tag (BCP 47), and its sentences by their English. */
export type Tongue = { language: string; messages: Record<string, string> };

/** An invented language, whose sentences are the English ones between marks; offered to nobody (tongue.Marked in Go). */
export const marked = "qaa";

export const english: Tongue = { language: "en", messages: {} };
let spoken = english;
let plurals = new Intl.PluralRules("en");

/** Has the page speak a language from now on; what stands already has to be drawn anew. */
export function speak(tongue: Tongue) {
	if (spoken.language !== tongue.language) plurals = new Intl.PluralRules(tongue.language);
	spoken = tongue;
}

/** The language that the page speaks. */
export const language = () => spoken.language;

/** A sentence with what is put in: each %s takes the next, %[2]s the second. */
function fill(sentence: string, args: Arg[]) {
	let next = 0;
	const said = sentence.replace(/%(?:\[(\d)\])?[sdq]/g, (_, at?: string) =>
		String(args[at ? Number(at) - 1 : next++] ?? ""),
	);
	return spoken.language === marked ? `⟦${said}⟧` : said;
}

/** A sentence of the catalogue, which is known by its English; %s, or %[1]s and so on, stand for what is put in. */
export function t(sentence: string | Term, ...args: Arg[]) {
	const id = sentence as string;
	return fill(spoken.messages[id] ?? id, args);
}

/** Keeps a sentence to be said with t later, where the language is known. */
export const term = (sentence: string) => sentence as unknown as Term;

/** What is counted; `one` is the English for one. What else is put in comes behind the number. */
export function many(n: number, one: string, id: string, ...args: Arg[]) {
	const own = spoken.messages[`${id} ${plurals.select(n)}`] ?? spoken.messages[`${id} other`];
	return fill(own ?? (n === 1 ? one : id), [n, ...args]);
}

/** A row of things as it is said: "a, b and c". */
export const row = (things: string[], kind: "conjunction" | "disjunction" = "conjunction") =>
	new Intl.ListFormat(spoken.language === "en" ? "en-GB" : spoken.language, { type: kind }).format(things);
