import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, type Schemas, take } from "../api/client";
import type { Frame } from "./part";

type Hold = Schemas["Hold"];

/** How long it is until an answer that did not come is asked for again. */
const retry = 60;

/** Whether a draft has rooms to hold. */
const wants = (d: Frame) => !d.noRoom && (d.roomId !== "" || d.dates.some((x) => x.roomId !== ""));

/**
 * Keeps the rooms of a sheet held while its window is in front. Saving holds them; they are asked for again before they
 * lapse, when the window comes to the front, and where an old draft is opened.
 */
export function useHold(sheet: Schemas["Sheet"], draft: Frame): Hold | null {
	const { mutate, data, variables } = useMutation({
		mutationFn: (_about: string) => take(api.POST("/api/sheets/{id}/hold", { params: { path: { id: sheet.id } } })),
	});
	const kept = sheet.version > 0 && wants(sheet.draft) && wants(draft);
	// What was last said of the room at this time, also while it is asked for again; a save of something else says
	// nothing of it.
	const about = JSON.stringify([draft.start, draft.end, draft.roomId, draft.noRoom, draft.dates.map((d) => d.roomId)]);
	const said = useRef<{ about: string; hold: Hold }>(undefined);
	const heard = useRef<(Hold | null | undefined)[]>([]);
	if (sheet.hold && sheet.hold !== heard.current[0]) said.current = { about, hold: sheet.hold };
	if (data && data !== heard.current[1] && variables === about) said.current = { about, hold: data };
	heard.current = [sheet.hold, data];
	const known = kept && said.current?.about === about ? said.current.hold : null;
	const held = !!known?.until;
	const again = known?.again ?? retry;
	useEffect(() => {
		if (!kept) return;
		const renew = () => document.visibilityState === "visible" && mutate(about);
		const timer = setInterval(renew, again * 1000);
		if (!held && !said.current) renew();
		document.addEventListener("visibilitychange", renew);
		return () => {
			clearInterval(timer);
			document.removeEventListener("visibilitychange", renew);
		};
	}, [kept, held, about, again, mutate]);
	return known;
}
