import type { Schemas } from "../api/client";

export type Person = Schemas["DraftPerson"];

/** Somebody of the directory, put on a sheet. */
export const personOf = (e: Schemas["Entry"]): Person => ({
	personId: e.personId,
	name: e.name,
	email: e.email,
	needed: true,
	dates: [],
});
