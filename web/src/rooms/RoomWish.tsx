import { useState } from "react";
import { length } from "../time/format";
import { t } from "../tongue/tongue";
import type { Wish } from "./deeds";
import { Equipped } from "./Equipped";

type Props = { wish: Wish; set: (change: Partial<Record<keyof Wish, string[] | string | number>>) => void };

const look = "rounded-[3px] bg-transparent py-px text-small";

const lengths = [0, 30, 60, 120, 240];

/** What a room must have to be shown. */
export function RoomWish({ wish, set }: Props) {
	// What is typed stands at once; the address follows.
	const [seats, setSeats] = useState(wish.seats ? String(wish.seats) : "");
	return (
		<span className="flex flex-wrap items-center gap-x-3 gap-y-1 text-quiet text-small">
			<label>
				{t("for")}{" "}
				<input
					aria-label={t("Seats")}
					inputMode="numeric"
					placeholder={t("any")}
					className="w-11 rounded-[3px] border border-rule bg-white px-1 py-px text-ink"
					value={seats}
					onChange={(e) => {
						setSeats(e.target.value);
						set({ seats: Number.parseInt(e.target.value, 10) || 0 });
					}}
				/>{" "}
				{t("people or more")}
			</label>
			<Equipped
				equipment={wish.equipment}
				site={wish.site}
				look={look}
				setEquipment={(equipment) => set({ equipment })}
				setSite={(site) => set({ site, floor: "" })}
				floor={wish.floor}
				setFloor={(floor) => set({ floor })}
			/>
			<label>
				{t("clear for")}{" "}
				<select
					aria-label={t("Clear for")}
					className={look}
					value={wish.clearFor}
					onChange={(e) => set({ clearFor: Number(e.target.value) })}
				>
					{lengths.map((minutes) => (
						<option key={minutes} value={minutes}>
							{minutes ? length(minutes) : t("any time")}
						</option>
					))}
				</select>
			</label>
		</span>
	);
}
