import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { readAgain } from "./live";

test("a change told while something is read for the first time is not lost", async () => {
	const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 5000 } } });
	let held = "before";
	let arrive = () => {};
	const read = async () => {
		const seen = held;
		if (seen === "before") await new Promise<void>((resolve) => (arrive = resolve));
		return seen;
	};
	const shown = new QueryObserver(queries, { queryKey: ["meeting", "1"], queryFn: read });
	const stop = shown.subscribe(() => {});
	held = "after";
	const again = readAgain(queries);
	arrive();
	await again;
	expect(shown.getCurrentResult().data).toBe("after");
	stop();
	queries.clear();
});
