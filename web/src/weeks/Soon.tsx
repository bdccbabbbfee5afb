import type { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { minutesUntil } from "../time/format";
import { t } from "../tongue/tongue";
import { lookOf } from "../ui/kit";

/** So long before its start a call is offered, in minutes. */
const early = 20;

/** Calls that are on or about to begin, to join at one press. */
export function Soon({ meetings, now }: { meetings: Schemas["WeekMeeting"][]; now: Temporal.Instant }) {
	const minutes = (at: string) => minutesUntil(at, now);
	const calls = meetings.filter(
		(m) => m.join && m.standing !== "declined" && !m.allDay && minutes(m.start) <= early && minutes(m.end) > 0,
	);
	if (calls.length === 0) return null;
	return (
		<ul aria-label={t("Calls to join")} className="mb-2 flex flex-wrap gap-x-5 gap-y-1 text-[13px]">
			{calls.map((m) => {
				const left = minutes(m.start);
				return (
					<li key={`${m.id} ${m.on}`} className="flex items-center gap-2">
						<span className="text-quiet">{left > 0 ? t("In %s min", left) : t("Now")}</span>
						<b className="max-w-[260px] truncate font-[650]">{m.title}</b>
						<a href={m.join} className={lookOf("plain")}>
							{t("Join")}
						</a>
					</li>
				);
			})}
		</ul>
	);
}
