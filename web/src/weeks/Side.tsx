import type { Ref } from "react";
import { Link } from "react-router";
import { Temporal } from "temporal-polyfill";
import { problemOf } from "../api/client";
import { useSignedIn } from "../api/me";
import { AnswerBar } from "../meeting/AnswerBar";
import { AnswerTag } from "../meeting/AnswerTag";
import { useMeeting } from "../meeting/deeds";
import { useCopyKey } from "../meeting/useCopyKey";
import { lookAt } from "../series/looked";
import { dayNear, inZone, length, minutesUntil, spell, zoneOf } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { JoinCard } from "../ui/JoinCard";
import { Button, lookOf, Note, Plate, Skeleton, Tag } from "../ui/kit";

/** The meeting chosen in the week. */
export function Side({ id, on, onClose, ref }: { id: string; on: string; onClose: () => void; ref: Ref<HTMLElement> }) {
	const meeting = useMeeting(id);
	const m = meeting.data && lookAt(meeting.data, on).shown;
	useCopyKey(m?.card);
	return (
		<aside
			ref={ref}
			tabIndex={-1}
			aria-label={t("Chosen meeting")}
			className="flex w-full min-w-0 shrink-0 flex-col gap-3 border-rule border-l bg-sheet px-[18px] py-4 lg:w-[328px]"
		>
			{meeting.isPending && <Skeleton lines={5} />}
			{meeting.error && <Note tone="brick">{problemOf(meeting.error).detail}</Note>}
			{m && <Chosen m={m} on={on} />}
			<div className="mt-auto flex gap-2">
				<Link to={`/meeting/${id}${on && m?.series ? `?date=${on}` : ""}`} className={`${lookOf("plain")} text-ink`}>
					{t("Open")}
				</Link>
				<Button onClick={onClose}>{t("Close")}</Button>
			</div>
		</aside>
	);
}

function Chosen({ m, on }: { m: NonNullable<ReturnType<typeof useMeeting>["data"]>; on: string }) {
	const me = useSignedIn();
	const zone = zoneOf(m, me.zone);
	const now = useNow();
	const day = inZone(m.start, zone).toPlainDate();
	const unreached = m.participants.filter((p) => p.dispatch?.state === "failed");
	return (
		<>
			<div>
				<div className="text-quiet text-small">{until(m.start, m.end, now)}</div>
				<h2 className="break-words text-[21px] leading-[1.15]">{m.title}</h2>
				<div className="mt-1">
					{dayNear(day, now.toZonedDateTimeISO(me.zone).toPlainDate())}
					{spell(m, zone)}
				</div>
				{m.series && (
					<div className="text-quiet text-small">
						{m.series.words}
						{m.series.near && m.mine && !m.series.goesOnIn && (
							<span className="text-honey">
								{" "}
								· {m.series.left === 1 ? t("one date is left") : t("%s dates are left", m.series.left)}
							</span>
						)}
					</div>
				)}
				{m.room && (
					<div className="mt-1.5">
						<Plate>{m.room.name}</Plate>{" "}
						<span className="text-quiet text-small">{t("%s · seats %s", m.room.place, m.room.seats)}</span>
					</div>
				)}
			</div>
			{m.myAnswer && <AnswerBar meeting={m} on={on} />}
			{m.card && <JoinCard card={m.card} withKey />}
			<div>
				<h3 className="mb-1.5 text-[15px]">{t("People")}</h3>
				<ul className="flex flex-col gap-1.5 text-[13px]">
					{!m.mine && (
						<li className="flex justify-between gap-2">
							<span>{m.organiser.name}</span>
							<Tag>{t("organises")}</Tag>
						</li>
					)}
					{m.participants.map((p) => (
						<li key={p.id} className="flex items-start justify-between gap-2">
							<span>
								{p.name} {p.outside && <span className="text-quiet text-small">{t("outside")}</span>}
							</span>
							<AnswerTag participant={p} />
						</li>
					))}
				</ul>
			</div>
			{unreached.length > 0 && (
				<p className="border-rule border-t pt-2.5 text-small">
					<b className="text-brick">
						{unreached.length === 1 ? t("One loose end.") : t("%s loose ends.", unreached.length)}
					</b>{" "}
					{t("%s did not get the invitation: the mail server refused it.", unreached.map((p) => p.name).join(", "))}
				</p>
			)}
		</>
	);
}

/** "In 18 minutes", while that is soon. */
function until(start: string, end: string, now: Temporal.Instant) {
	const minutes = minutesUntil(start, now);
	if (minutes > 0 && minutes <= 180) return t("In %s", length(minutes));
	if (minutes <= 0 && Temporal.Instant.from(end).epochMilliseconds > now.epochMilliseconds) return t("Now");
	return null;
}
