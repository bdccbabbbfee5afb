import { expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { inOrder } from "./useStable";

const rooms = (...ids: string[]) => ids.map((id) => ({ room: { id } }) as Schemas["RoomLane"]);
const ids = (all: Schemas["RoomLane"][]) => all.map((r) => r.room.id).join("");

test("rooms keep their order while one is chosen, and take a new one for another question", () => {
	const known = { about: "", order: new Map<string, number>() };
	expect(ids(inOrder(rooms("a", "b", "c"), "thu", known))).toBe("abc");
	expect(ids(inOrder(rooms("b", "a", "c"), "thu", known))).toBe("abc");
	expect(ids(inOrder(rooms("d", "c", "a"), "thu", known))).toBe("acd");
	expect(ids(inOrder(rooms("c", "a", "b"), "fri", known))).toBe("cab");
});
