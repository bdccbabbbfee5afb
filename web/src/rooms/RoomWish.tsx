import { useState } from "react";
import { useRooms } from "../sheet/deeds";
import type { Wish } from "./deeds";

type Props = { wish: Wish; set: (change: Partial<Record<keyof Wish, string[] | string | number>>) => void };

const look = "rounded-[3px] bg-transparent py-px text-small";

const lengths: [number, string][] = [
	[0, "any time"],
	[30, "30 min"],
	[60, "1 h"],
	[120, "2 h"],
	[240, "4 h"],
];

/** What a room must have to be shown. */
export function RoomWish({ wish, set }: Props) {
	const rooms = useRooms().data?.items ?? [];
	// What is typed stands at once; the address follows.
	const [seats, setSeats] = useState(wish.seats ? String(wish.seats) : "");
	const equipment = [...new Set(rooms.flatMap((r) => r.equipment))].sort();
	const sites = [...new Map(rooms.map((r) => [r.siteId, r.site]))];
	return (
		<span className="flex flex-wrap items-center gap-x-3 gap-y-1 text-quiet text-small">
			<label>
				for{" "}
				<input
					aria-label="Seats"
					inputMode="numeric"
					placeholder="any"
					className="w-11 rounded-[3px] border border-rule bg-white px-1 py-px text-ink"
					value={seats}
					onChange={(e) => {
						setSeats(e.target.value);
						set({ seats: Number.parseInt(e.target.value, 10) || 0 });
					}}
				/>{" "}
				people or more
			</label>
			{wish.equipment.map((e) => (
				<button
					key={e}
					type="button"
					className="rounded-[3px] bg-slate-wash px-1.5 text-ink"
					onClick={() => set({ equipment: wish.equipment.filter((x) => x !== e) })}
				>
					<span className="sr-only">Without </span>
					{e} <span aria-hidden>✕</span>
				</button>
			))}
			<select
				aria-label="Equipment"
				className={look}
				value=""
				onChange={(e) => set({ equipment: [...wish.equipment, e.target.value] })}
			>
				<option value="">+ equipment</option>
				{equipment
					.filter((e) => !wish.equipment.includes(e))
					.map((e) => (
						<option key={e}>{e}</option>
					))}
			</select>
			<select aria-label="Place" className={look} value={wish.site} onChange={(e) => set({ site: e.target.value })}>
				<option value="">any place</option>
				{sites.map(([id, name]) => (
					<option key={id} value={id}>
						{name}
					</option>
				))}
			</select>
			<label>
				clear for{" "}
				<select
					aria-label="Clear for"
					className={look}
					value={wish.clearFor}
					onChange={(e) => set({ clearFor: Number(e.target.value) })}
				>
					{lengths.map(([minutes, words]) => (
						<option key={minutes} value={minutes}>
							{words}
						</option>
					))}
				</select>
			</label>
		</span>
	);
}
