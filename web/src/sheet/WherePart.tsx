import { memo } from "react";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { clock, dayMonth, inZone } from "../time/format";
import { useNow } from "../time/now";
import { many, t } from "../tongue/tongue";
import { Button, FieldFault, Note, Plate } from "../ui/kit";
import { useRooms } from "./deeds";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./part";
import { inTheWay, WaitFor } from "./WaitFor";

type Props = Part & { hold: Schemas["Hold"] | null; taken: Taken | null; onTake: (id: string) => void };
type Taken = { sentence: string; clear: Schemas["RoomRef"][]; roomId: string };

/** The room on the sheet. Rooms are taken at the right, among their day. */
export const WherePart = memo(function WherePart(props: Props) {
	const { draft, change, faults, day, dates, hold, taken, onTake } = props;
	const { zone } = useSignedIn();
	const now = useNow();
	const lane = day?.rooms.find((r) => r.room.id === draft.roomId);
	const fault = faultAt(faults, "room");
	const until = hold?.until && now.epochMilliseconds < Date.parse(hold.until) ? hold.until : null;
	const lost = !dates && taken && taken.roomId === draft.roomId;
	const roomless = dates?.dates.filter((d) => d.inScope && d.state === "noroom").length ?? 0;
	return (
		<PartRow name="Where">
			<div className="flex min-h-[30px] flex-wrap items-center gap-1.5">
				{lane && (
					<>
						<Plate>{lane.room.name}</Plate>
						<span className="text-quiet text-small">
							{t("seats %s · %s, %s", lane.room.seats, lane.room.site, lane.room.floor)}
						</span>
						{until && (
							<span className="text-fig text-small">{t("held for you until %s", clock(inZone(until, zone)))}</span>
						)}
						<Button look="bare" className="text-small" onClick={() => change({ roomId: "" })}>
							{t("Give back")}
						</Button>
					</>
				)}
				{!draft.roomId && (
					<label className="flex items-center gap-1.5 text-quiet text-small">
						<input type="checkbox" checked={draft.noRoom} onChange={(e) => change({ noRoom: e.target.checked })} />
						{t("no room needed")}
					</label>
				)}
				{!draft.roomId && !draft.noRoom && (
					<span className="text-honey text-small">{t("Take one of the rooms on the right.")}</span>
				)}
			</div>
			<OtherRooms draft={draft} />
			{lane?.asks && !fault && (
				<p className="text-honey text-small">{t("%s Send asks; you hear of the answer.", lane.asks)}</p>
			)}
			{hold?.words && !lost && <p className="text-brick text-small">{hold.words}</p>}
			<FieldFault id="fault-room" sentence={fault?.detail} />
			{lost && (
				<Note tone="brick">
					<b>{taken.sentence}</b>{" "}
					{taken.clear.length === 0
						? t("No other room with enough seats is clear then.")
						: taken.clear.length === 1
							? t("%s is clear.", taken.clear[0]?.name)
							: t("%s are clear.", taken.clear.map((r) => r.name).join(", "))}{" "}
					{taken.clear.slice(0, 3).map((r) => (
						<Button key={r.id} look="bare" onClick={() => onTake(r.id)}>
							{t("Take %s", r.name)}
						</Button>
					))}
				</Note>
			)}
			{roomless > 0 && (
				<Note tone="brick">
					{taken && <b>{taken.sentence} </b>}
					{many(
						roomless,
						"One date has no room. Mend it among the dates, or take one room for all.",
						"%d dates have no room. Mend it among the dates, or take one room for all.",
					)}
				</Note>
			)}
			{!dates && !lost && lane && !lane.clear && !fault && !hold?.words && (
				<p className="text-brick text-small">
					{lane.taken.some((x) => x.kind === "refused")
						? t("The keeper of %s has refused that time. Take another room or time.", lane.room.name)
						: takenWords(lane)}
				</p>
			)}
			{draft.roomId !== "" && (props.sheet.waiting || inTheWay(props) === "room") && <WaitFor part={props} />}
			{lane && !lane.suits && !fault && (
				<p className="text-honey text-small">{t("%s does not have what the sheet asks for.", lane.room.name)}</p>
			)}
		</PartRow>
	);
});

/** The dates of a series that have another room than the others. */
function OtherRooms({ draft }: Pick<Part, "draft">) {
	const rooms = useRooms().data?.items ?? [];
	const other = draft.dates.filter((d) => !d.out && (d.noRoom || (d.roomId && d.roomId !== draft.roomId)));
	if (other.length === 0) return null;
	const words = other.slice(0, 4).map((d) => {
		const room = d.noRoom ? t("no room") : (rooms.find((r) => r.id === d.roomId)?.name ?? t("another room"));
		return `${dayMonth(Temporal.PlainDate.from(d.on))} ${room}`;
	});
	return (
		<p className="text-quiet text-small">
			{words.join(" · ")}
			{other.length > words.length && ` · ${t("and %s more", other.length - words.length)}`}
		</p>
	);
}

function takenWords({ room, taken }: Schemas["RoomLane"]) {
	const names = [...new Set(taken.map((x) => x.by).filter(Boolean))];
	return names.length === 1 ? t("%s is taken then by %s.", room.name, names[0]) : t("%s is taken then.", room.name);
}
