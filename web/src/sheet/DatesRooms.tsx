import type { Schemas } from "../api/client";
import { t } from "../tongue/tongue";
import { Button } from "../ui/kit";
import type { Part } from "./part";

type Props = Pick<Part, "draft" | "change"> & { rooms: Schemas["SeriesRooms"] };

/** One room for all dates compared with a room for each. */
export function DatesRooms({ rooms, draft, change }: Props) {
	const { one, each, dates } = rooms;
	// What single dates have beside a room stays.
	const without = draft.dates.map((d) => ({ ...d, roomId: "", noRoom: false })).filter((d) => d.out || d.start);
	const takeOne = () => one && change({ roomId: one.id, noRoom: false, dates: without });
	const takeEach = () =>
		change({
			roomId: rooms.eachMost,
			noRoom: false,
			dates: [...without.filter((d) => !rooms.eachDates.some((x) => x.on === d.on)), ...rooms.eachDates].sort((a, b) =>
				a.on < b.on ? -1 : 1,
			),
		});
	const settled = draft.roomId !== "" && rooms.taken === 0;
	const oneTaken = one?.id === draft.roomId && draft.dates.every((d) => !d.roomId && !d.noRoom);
	const eachTaken = settled && draft.roomId === rooms.eachMost && !oneTaken;
	return (
		<div className="mt-2.5 grid items-baseline gap-2 border-rule border-t pt-2.5 text-body sm:grid-cols-2">
			<div>
				<b className="font-[650]">{t("One room for all")}</b>{" "}
				{one ? (
					<>
						{one.name}{" "}
						<span className={rooms.oneClear === dates ? "text-moss" : "text-honey"}>
							{rooms.oneClear === dates ? t("clear on all %s", dates) : t("clear on %s of %s", rooms.oneClear, dates)}
						</span>{" "}
						{oneTaken ? (
							<span className="text-quiet text-small">{t("chosen")}</span>
						) : (
							<Button look="bare" onClick={takeOne}>
								{t("take it")}
							</Button>
						)}
					</>
				) : (
					<span className="text-honey">{t("none is clear on any date")}</span>
				)}
			</div>
			<div>
				<b className="font-[650]">{t("A room for each")}</b>{" "}
				{each.length === 0 ? (
					<span className="text-honey">{t("no room is clear")}</span>
				) : (
					<>
						{each.map((r) => r.name).join(", ")}{" "}
						<span className={rooms.eachWithout === 0 ? "text-moss" : "text-honey"}>
							{rooms.eachWithout === 0 ? t("on every date") : t("%s without", rooms.eachWithout)}
						</span>{" "}
						{eachTaken || (each.length === 1 && oneTaken) ? (
							<span className="text-quiet text-small">{eachTaken ? t("chosen") : t("the same")}</span>
						) : (
							<Button look="bare" onClick={takeEach}>
								{t("take these")}
							</Button>
						)}
					</>
				)}
			</div>
		</div>
	);
}
