import { problemOf, type Schemas } from "../api/client";
import { t } from "../tongue/tongue";
import { Button } from "../ui/kit";
import { useStopWaiting, useWait } from "./deeds";
import type { Part } from "./part";

/** What stands in the way of the time on a sheet and can become clear: the room, or people. */
export function inTheWay({ draft, day, dates }: Part): "room" | "people" | null {
	if (dates || !day) return null;
	const lane = day.rooms.find((r) => r.room.id === draft.roomId);
	if (lane && !lane.clear) return lane.waitable ? "room" : null;
	return day.troubles.some((t) => t.blocks) ? "people" : null;
}

/** Waits for what is in the way, and says how that stands. */
export function WaitFor({ part }: { part: Part }) {
	const { sheet, store } = part;
	const wait = useWait(sheet.id);
	const stop = useStopWaiting(sheet.id);
	const error = wait.error ?? stop.error;
	return (
		<p className="text-small">
			{sheet.waiting ? (
				<>
					<span className={looks[sheet.waiting.state]}>{sheet.waiting.words}</span>{" "}
					{sheet.waiting.state !== "passed" && (
						<Button look="bare" busy={stop.isPending} onClick={() => stop.mutate(undefined)}>
							{sheet.waiting.state === "turn" ? t("Leave it to others") : t("Stop waiting")}
						</Button>
					)}
				</>
			) : null}
			{(!sheet.waiting || sheet.waiting.state === "passed") && (
				<Button
					look="bare"
					busy={wait.isPending}
					onClick={() => store.save().then((kept) => kept && wait.mutate(undefined))}
				>
					{sheet.waiting ? t("Wait again") : t("Tell me when it is clear")}
				</Button>
			)}
			{error && (
				<span className="block text-brick">{problemOf(error).errors?.[0]?.detail ?? problemOf(error).detail}</span>
			)}
		</p>
	);
}

const looks: Record<Schemas["SheetWaiting"]["state"], string> = {
	waits: "text-honey",
	turn: "font-[650] text-fig",
	passed: "text-quiet",
};
