import type { Schemas } from "../api/client";
import { Equipped } from "../rooms/Equipped";
import { t } from "../tongue/tongue";
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
	return (
		<div className="relative z-10 flex min-h-[26px] flex-wrap items-center gap-x-3 border-rule border-b bg-[#faf7f1] px-[11px] text-[12px] text-quiet">
			<b className="font-[650] text-ink">{t("Rooms that fit")}</b>
			<span>{t("seats ≥ %s", day.seats)}</span>
			<Equipped
				equipment={filter.equipment}
				site={filter.siteId}
				look="max-w-[150px] rounded-[3px] bg-transparent py-px"
				setEquipment={(equipment) => setFilter({ ...filter, equipment })}
				setSite={(siteId) => setFilter({ ...filter, siteId })}
			/>
			<span className="ml-auto">{t("%s of %s", day.rooms.filter((r) => r.suits).length, day.allRooms)}</span>
		</div>
	);
}
