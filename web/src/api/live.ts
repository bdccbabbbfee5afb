import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { keys, type Notice, shows } from "./keys";
import { listen } from "./stream";
import { thisWindow } from "./window";

/** Keeps what is shown up to date while somebody is signed in. */
export function useLive() {
	const queries = useQueryClient();
	useEffect(() => listen((notice) => void hear(queries, notice)), [queries]);
}

/** Reads again what a notice tells of, unless it is this window's own deed: that has its answer already. */
export async function hear(queries: QueryClient, notice: Notice) {
	if (notice.topic === "session") await queries.invalidateQueries({ queryKey: keys.me });
	else if (notice.window !== thisWindow) await readAgain(queries, notice);
}

/**
 * Reads again what is shown of something. What is on its way for the first time is read once more when it is there: it
 * may tell of the time before the change, and the library does not cancel a first reading.
 */
async function readAgain(queries: QueryClient, notice: Notice) {
	const about = (q: { queryKey: readonly unknown[] }) => shows(q.queryKey, notice);
	const first = queries
		.getQueryCache()
		.findAll({ fetchStatus: "fetching", predicate: about })
		.filter((q) => q.state.data === undefined)
		.map((q) => q.queryKey);
	await queries.invalidateQueries({ predicate: about });
	await Promise.all(first.map((queryKey) => queries.invalidateQueries({ queryKey, exact: true })));
}
