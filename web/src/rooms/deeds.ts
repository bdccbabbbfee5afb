import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";

/** What a room must have, and how long it has to be clear at a stretch, in minutes. */
export type Wish = { seats: number; equipment: string[]; site: string; clearFor: number };
export type RoomToday = Schemas["RoomToday"];

export const useRoomsDay = (day: string, wish: Wish) =>
	useQuery({
		queryKey: keys.roomsDay(day, wish),
		queryFn: () =>
			take(
				api.GET("/api/rooms/day", {
					params: {
						query: { day, seats: wish.seats, equipment: wish.equipment, site: wish.site, clearFor: wish.clearFor },
					},
				}),
			),
		placeholderData: keepPreviousData,
	});
