import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

/** Keeps what is shown up to date while somebody is signed in. */
export function useLive() {
	const queries = useQueryClient();
	useEffect(() => {
		const stream = new EventSource("/api/live");
		stream.addEventListener("changed", () => readAgain(queries));
		// What changed before the stream was open, it does not tell.
		stream.onopen = () => readAgain(queries);
		return () => stream.close();
	}, [queries]);
}

/**
 * Reads again all that is shown. What is on its way for the first time is read once
 * more when it is there: it may tell of the time before the change, and the library
 * does not cancel a first reading.
 */
export async function readAgain(queries: QueryClient) {
	const first = queries
		.getQueryCache()
		.findAll({ fetchStatus: "fetching" })
		.filter((q) => q.state.data === undefined)
		.map((q) => q.queryKey);
	await queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "me" });
	await Promise.all(
		first.map((queryKey) =>
			queries.invalidateQueries({ queryKey, exact: true, predicate: (q) => q.queryKey[0] !== "me" }),
		),
	);
}
