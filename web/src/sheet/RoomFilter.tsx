import type { Schemas } from "../api/client";
import { useRooms } from "./deeds";
import type { Filter } from "./part";

/** What a room must have; seats follow from the people on the sheet. */
export function RoomFilter({
	day,
	filter,
	setFilter,
}: {
	day: Schemas["Day"];
	filter: Filter;
	setFilter: (f: Filter) => void;
}) {
	const rooms = useRooms().data?.items ?? [];
	const equipment = [...new Set(rooms.flatMap((r) => r.equipment))].sort();
	const sites = [...new Map(rooms.map((r) => [r.siteId, r.site]))];
	const look = "max-w-[150px] rounded-[3px] bg-transparent py-px";
	return (
		<div className="relative z-10 flex min-h-[26px] flex-wrap items-center gap-x-3 border-rule border-b bg-[#faf7f1] px-[11px] text-[12px] text-quiet">
			<b className="font-[650] text-ink">Rooms that fit</b>
			<span>seats ≥ {day.seats}</span>
			{filter.equipment.map((e) => (
				<button
					key={e}
					type="button"
					aria-label={`Without ${e}`}
					className="rounded-[3px] bg-slate-wash px-1.5 text-ink"
					onClick={() => setFilter({ ...filter, equipment: filter.equipment.filter((x) => x !== e) })}
				>
					{e} ✕
				</button>
			))}
			<select
				aria-label="Equipment"
				className={look}
				value=""
				onChange={(e) => setFilter({ ...filter, equipment: [...filter.equipment, e.target.value] })}
			>
				<option value="">+ equipment</option>
				{equipment
					.filter((e) => !filter.equipment.includes(e))
					.map((e) => (
						<option key={e}>{e}</option>
					))}
			</select>
			<select
				aria-label="Place"
				className={look}
				value={filter.siteId}
				onChange={(e) => setFilter({ ...filter, siteId: e.target.value })}
			>
				<option value="">any place</option>
				{sites.map(([id, name]) => (
					<option key={id} value={id}>
						{name}
					</option>
				))}
			</select>
			<span className="ml-auto">
				{day.rooms.filter((r) => r.suits).length} of {day.allRooms}
			</span>
		</div>
	);
}
