import { Fragment } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { clock, inZone, length, minutesUntil } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { useCopy } from "../ui/copy";
import { Button, lookOf, Plate } from "../ui/kit";
import type { TodayItem } from "./deeds";

type Today = Schemas["Today"];

/** So long before its start a call is offered, in minutes. */
const early = 20;

const marks: Record<NonNullable<TodayItem["standing"]>, string> = {
	mine: "mark-mine",
	accepted: "mark-accepted",
	maybe: "mark-maybe",
	unanswered: "mark-unanswered",
	declined: "mark-declined",
};

/** The day from top to bottom: what there is, and what is clear between. */
export function DayList({ today }: { today: Today }) {
	const { zone } = useSignedIn();
	const now = useNow();
	const minutes = (at: string) => minutesUntil(at, now);
	const next = today.items.find((i) => i.standing !== "declined" && minutes(i.end) > 0);
	const rows = [
		...today.items.map((item) => ({ at: item.start, item })),
		...today.clear.map((c) => ({ at: c.start, clear: c })),
	].sort((a, b) => a.at.localeCompare(b.at));
	return (
		<ol className="rounded-[4px] border border-rule bg-sheet">
			{today.wholeDay.map((i) => (
				<li key={`${i.meetingId} ${i.on}`} className="border-[#eae4d8] border-b px-3.5 py-2 last:border-b-0">
					<span className="mr-2 text-quiet text-small">{t("all day")}</span>
					<Link to={`/meeting/${i.meetingId}?date=${i.on}`}>{i.title}</Link>
				</li>
			))}
			{rows.map((r) => (
				<Fragment key={"item" in r ? `${r.item.meetingId} ${r.at}` : r.at}>
					{"item" in r ? (
						<Row
							i={r.item}
							zone={zone}
							left={minutes(r.item.start)}
							over={minutes(r.item.end) <= 0}
							isNext={r.item === next}
						/>
					) : (
						<li className="border-[#eae4d8] border-b bg-[#faf7f0] py-1 pl-[76px] text-quiet text-small last:border-b-0">
							{t(
								"%s clear",
								length(
									Math.round(
										(Date.parse(r.clear.end) - Math.max(Date.parse(r.clear.start), now.epochMilliseconds)) / 60000,
									),
								),
							)}
						</li>
					)}
				</Fragment>
			))}
		</ol>
	);
}

type RowProps = { i: TodayItem; zone: string; left: number; over: boolean; isNext: boolean };

function Row({ i, zone, left, over, isNext }: RowProps) {
	const minutes = Math.round((Date.parse(i.end) - Date.parse(i.start)) / 60000);
	const soon = left > 0 ? t("in %s", length(left)) : t("now");
	return (
		<li
			className={`grid grid-cols-[54px_8px_minmax(0,1fr)] gap-x-3.5 px-3.5 py-2 ${isNext ? "rounded-[3px] bg-fig-wash outline-2 outline-fig" : "border-[#eae4d8] border-b last:border-b-0"} ${over ? "text-quiet [&_a]:text-quiet" : ""}`}
		>
			<time dateTime={i.start} className="font-[650] text-[15px]">
				{clock(inZone(i.start, zone))}
			</time>
			<span
				aria-hidden
				className={`my-0.5 rounded-[1px] ${over ? "opacity-50" : ""} ${i.noRoom ? "mark-broken" : i.standing ? marks[i.standing] : "mark-busy"}`}
			/>
			<div className="flex flex-wrap items-center gap-x-3 gap-y-1">
				<div className="min-w-0 flex-1 basis-[160px]">
					{i.meetingId ? (
						<Link
							to={`/meeting/${i.meetingId}?date=${i.on}`}
							className={`break-words text-ink ${i.standing === "declined" ? "line-through" : "no-underline hover:underline"} ${isNext ? "font-[650]" : ""}`}
						>
							{i.title}
						</Link>
					) : i.invitationId ? (
						<Link to={`/invitation/${i.invitationId}`} className="break-words text-ink no-underline hover:underline">
							{i.title}
						</Link>
					) : (
						<span>{i.title || t("In another calendar")}</span>
					)}{" "}
					{isNext && !over && <span className="text-small">{soon}</span>}
					<span className="block text-quiet text-small">
						{length(minutes)}
						{i.room && (
							<>
								{" · "}
								<Plate small>{i.room}</Plate>
							</>
						)}
						{i.organiser && ` · ${t("from %s", i.organiser)}`}
						{i.standing === "accepted" && ` · ${t("accepted")}`}
						{i.standing === "maybe" && ` · ${t("maybe")}`}
						{i.standing === "declined" && ` · ${t("declined")}`}
						{i.standing === "unanswered" && ` · ${t("not answered")}`}
						{i.provider && ` · ${i.provider}`}
						{i.standing === "mine" && i.people > 0 && ` · ${t("%s of %s come", i.coming, i.people)}`}
					</span>
					{i.missing.length > 0 && !over && (
						<span className="block text-honey text-small">
							{i.missing.length > 3
								? t("missing: %s and %s more", i.missing.slice(0, 3).join(", "), i.missing.length - 3)
								: t("missing: %s", i.missing.join(", "))}
						</span>
					)}
					{i.noRoom && <span className="block text-brick text-small">{t("has no room")}</span>}
				</div>
				{over ? (
					<span className="text-quiet text-small">{t("over")}</span>
				) : (
					isNext && <Join i={i} offered={left <= early} />
				)}
			</div>
		</li>
	);
}

function Join({ i, offered }: { i: TodayItem; offered: boolean }) {
	const copy = useCopy();
	if (!i.join && !i.card) return null;
	return (
		<span className="flex gap-1.5">
			{i.join && (
				<a href={i.join} className={lookOf(offered ? "go" : "plain")}>
					{t("Join")}
				</a>
			)}
			{i.card && <Button onClick={() => copy(i.card ?? "", t("Card"))}>{t("Copy card")}</Button>}
		</span>
	);
}
