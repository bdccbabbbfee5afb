import type { ReactNode } from "react";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { city, inZone, longDayNear, sameClock, spell, times } from "../time/format";
import { t } from "../tongue/tongue";
import { Plate } from "../ui/kit";

type Props = {
	by: ReactNode;
	m: Pick<Schemas["AtAddress"], "title" | "start" | "end" | "zone" | "allDay" | "room" | "calledOff">;
	repeats?: string;
	/** The zone that times are shown in, and where it is chosen or said. */
	zone: string;
	zoneShown: ReactNode;
	/** What stands between the time and the room. */
	children?: ReactNode;
};

/** The head of a page for somebody outside: whose meeting it is, what, when and where. */
export function Head({ by, m, repeats, zone, zoneShown, children }: Props) {
	return (
		<>
			<p className="text-quiet text-small">{by}</p>
			<h1 className={`mt-1 break-words text-[30px] leading-tight ${m.calledOff ? "line-through" : ""}`}>{m.title}</h1>
			{repeats && <p className="mt-1 text-[15px] first-letter:uppercase">{repeats}</p>}
			<p className="mt-1.5 text-[18px]">
				{longDayNear(inZone(m.start, zone).toPlainDate(), Temporal.Now.plainDateISO(zone))}
				{spell(m, zone)} {zoneShown}
				{!m.allDay && !sameClock(m.start, zone, m.zone) && (
					<span className="text-[14px] text-quiet">
						{" · "}
						{t("%[1]s in %[2]s", times(m.start, m.end, m.zone), city(m.zone))}
					</span>
				)}
			</p>
			{children}
			{m.room && (
				<p className="mt-2">
					<Plate>{m.room.name}</Plate> <span className="text-quiet text-small">{m.room.place}</span>
				</p>
			)}
		</>
	);
}
