import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { keys } from "./keys";
import { hear } from "./live";
import { thisWindow } from "./window";

function shown(queryKey: readonly unknown[], read: () => Promise<string>) {
	const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 60_000 } } });
	const observer = new QueryObserver(queries, { queryKey, queryFn: read });
	const stop = observer.subscribe(() => {});
	return { queries, observer, stop };
}

test("a change told while something is read for the first time is not lost", async () => {
	let held = "before";
	let arrive = () => {};
	const read = async () => {
		const seen = held;
		if (seen === "before") await new Promise<void>((resolve) => (arrive = resolve));
		return seen;
	};
	const { queries, observer, stop } = shown(keys.meeting("1"), read);
	held = "after";
	const again = hear(queries, { topic: "meeting", id: "1" });
	arrive();
	await again;
	expect(observer.getCurrentResult().data).toBe("after");
	stop();
	queries.clear();
});

test("the echo of one's own deed, and what is about something else, ask nothing", async () => {
	let asked = 0;
	const { queries, stop } = shown(keys.meeting("1"), async () => `${++asked}`);
	await queries.fetchQuery({ queryKey: keys.meeting("1"), queryFn: async () => `${asked}` });
	const before = asked;
	await hear(queries, { topic: "meeting", id: "1", window: thisWindow });
	await hear(queries, { topic: "meeting", id: "2" });
	await hear(queries, { topic: "sheet", id: "1" });
	expect(asked).toBe(before);
	await hear(queries, { topic: "meeting", id: "1", window: "another" });
	expect(asked).toBe(before + 1);
	stop();
	queries.clear();
});
