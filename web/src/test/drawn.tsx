import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { MemoryRouter } from "react-router";
import type { Schemas } from "../api/client";
import { keys } from "../api/keys";

/** Ilse Marrant at 10:12 on the Tuesday of the demo. */
export const ilse: Schemas["Me"] = {
	id: "i",
	name: "Ilse Marrant",
	email: "ilse.marrant@marrowby.example",
	role: "Loans",
	site: "Lisbon",
	zone: "Europe/Lisbon",
	language: "en",
	house: "Marrowby",
	now: "2026-11-24T10:12:00Z",
	providers: [],
	newsMail: "away",
	morningMail: false,
	nudges: true,
	keepsRooms: false,
	keepsProviders: false,
	undoSeconds: 10,
	fileLimit: 1000,
	fileLimitWords: "1 kB",
};

/** What the program would have answered, for a test. */
type Known = [key: readonly unknown[], data: unknown];

/** A part of the interface as it is drawn first, for tests: its markup. */
export function markup(part: ReactNode, ...known: Known[]) {
	const queries = new QueryClient();
	for (const [key, data] of [[keys.me, ilse] as Known, ...known]) queries.setQueryData(key, data);
	return renderToStaticMarkup(
		<QueryClientProvider client={queries}>
			<MemoryRouter>{part}</MemoryRouter>
		</QueryClientProvider>,
	);
}

const plain = (html: string) =>
	html
		.replace(/<[^>]+>/g, "")
		.replaceAll("&amp;", "&")
		.replaceAll("&quot;", '"')
		.replaceAll("&#x27;", "'");

/** What is written in it. */
export const text = (part: ReactNode, ...known: Known[]) => plain(markup(part, ...known));

/** The buttons and links in it, by their words. */
export const presses = (part: ReactNode, ...known: Known[]) =>
	[...markup(part, ...known).matchAll(/<(?:button|a)\b[^>]*>(.*?)<\/(?:button|a)>/gs)].map((m) => plain(m[1] ?? ""));
