import { useRef } from "react";
import type { Schemas } from "../api/client";

/**
 * Rooms in the order in which they were first shown for a question: while somebody chooses among them, the one that is
 * taken does not jump to the top. `about` says what the question is about, without the room.
 */
export function useStable(rooms: Schemas["RoomLane"][], about: string): Schemas["RoomLane"][] {
	const known = useRef({ about, order: new Map<string, number>() });
	return inOrder(rooms, about, known.current);
}

export function inOrder(
	rooms: Schemas["RoomLane"][],
	about: string,
	known: { about: string; order: Map<string, number> },
): Schemas["RoomLane"][] {
	if (known.about !== about) {
		known.about = about;
		known.order = new Map();
	}
	for (const r of rooms) if (!known.order.has(r.room.id)) known.order.set(r.room.id, known.order.size);
	return [...rooms].sort((a, b) => (known.order.get(a.room.id) ?? 0) - (known.order.get(b.room.id) ?? 0));
}
