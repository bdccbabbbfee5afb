import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { newer } from "./deeds";

type Sheet = Schemas["Sheet"];

const sheet = (version: number, call?: string) =>
	({ version, ...(call && { card: { name: call } }) }) as unknown as Sheet;

test("a sheet is shown as it is last, whatever answers late", () => {
	expect(newer(undefined, sheet(1)).version).toBe(1);
	expect(newer(sheet(3), sheet(2, "Ostrel")).card).toBeUndefined();
	expect(newer(sheet(3), sheet(3, "Ostrel")).card?.name).toBe("Ostrel"); // the link that followed
	expect(newer(sheet(3), sheet(4, "Ostrel")).version).toBe(4);
});

test("a reading that was under way does not bring back what was taken off", async () => {
	const queries = new QueryClient();
	let answer = (_: Sheet) => {};
	const key = ["sheet", "7"];
	const reading = new QueryObserver<Sheet>(queries, {
		queryKey: key,
		queryFn: () => new Promise<Sheet>((done) => (answer = done)),
		structuralSharing: (was, is) => newer(was as Sheet | undefined, is as Sheet),
	});
	const stop = reading.subscribe(() => {});
	queries.setQueryData(key, sheet(5)); // the answer to "Take off"
	answer(sheet(4, "Ostrel")); // read before that
	await expect.poll(() => queries.isFetching()).toBe(0);
	expect(queries.getQueryData<Sheet>(key)?.card).toBeUndefined();
	stop();
});
