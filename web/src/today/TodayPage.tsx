import type { ReactNode } from "react";
import { Link } from "react-router";
import { useGiveAnswer } from "../api/answer";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { useAnswerInvitation } from "../invitation/deeds";
import { Answers } from "../meeting/AnswerBar";
import { useTitle } from "../shell/title";
import { clock, inZone, longDay, plainDate, shortDay } from "../time/format";
import { t } from "../tongue/tongue";
import { Empty, lookOf, Note, Skeleton, Tag } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { DayList } from "./DayList";
import { useToday } from "./deeds";
import { EndRow } from "./EndRow";

type Today = Schemas["Today"];

/** The day, what keeps meetings from happening, and who waits for an answer. */
export function TodayPage() {
	useTitle(t("Today"));
	const today = useToday();
	if (today.error && !today.data)
		return (
			<main className="p-5">
				<TryAgain error={today.error} again={() => today.refetch()} />
			</main>
		);
	if (!today.data) return <Skeleton lines={6} />;
	return <View today={today.data} />;
}

function View({ today }: { today: Today }) {
	const day = plainDate(today.day);
	return (
		<main className="grid w-full flex-1 content-start gap-x-6 gap-y-5 px-5 py-4 lg:grid-cols-[minmax(0,470px)_minmax(0,1fr)]">
			<section aria-label={t("The day")} className="min-w-0">
				<h1 className="mb-2.5 text-[25px] leading-tight">{day && longDay(day)}</h1>
				{today.items.length + today.wholeDay.length === 0 ? (
					<Empty title={today.away ? t("You are on leave.") : t("Nothing today.")}>
						{today.away ? t("What you are asked to meanwhile waits here.") : t("The day is clear.")}
					</Empty>
				) : (
					<DayList today={today} />
				)}
				<Next next={today.next} day={today.day} />
			</section>
			<div className="min-w-0">
				<section aria-label={t("Loose ends")}>
					<h2 className="mb-2 text-[19px] leading-tight">
						{t("Loose ends")}{" "}
						<span className="font-normal font-sans text-[14px] text-quiet">
							{t("what keeps a meeting from happening")}
						</span>
					</h2>
					{today.ends.length === 0 ? (
						<Empty title={t("Nothing is loose.")}>
							{t("Rooms, links and people are settled. What comes apart is shown here, with what mends it.")}
						</Empty>
					) : (
						<ul className="flex flex-col gap-2">
							{today.ends.map((e) => (
								<EndRow key={e.key} end={e} />
							))}
						</ul>
					)}
				</section>
				{today.asked.length + today.invited.length > 0 && (
					<section aria-label={t("Waits for your answer")} className="mt-5">
						<h2 className="mb-2 text-[17px]">
							{t("Waits for your answer")}{" "}
							<span className="font-normal font-sans text-[14px] text-quiet">
								{today.asked.length + today.invited.length}
							</span>
						</h2>
						<ul className="flex flex-col gap-2">
							{[...today.asked, ...today.invited]
								.sort((a, b) => a.start.localeCompare(b.start))
								.map((x) => ("meetingId" in x ? <Asked key={x.meetingId} a={x} /> : <InvitedTo key={x.id} i={x} />))}
						</ul>
					</section>
				)}
			</div>
		</main>
	);
}

function Next({ next, day }: { next: Today["next"]; day: string }) {
	const { zone } = useSignedIn();
	if (!next) return null;
	const at = inZone(next.start, zone);
	const tomorrow = plainDate(day)?.add({ days: 1 }).equals(at.toPlainDate());
	return (
		<p className="mt-2.5 text-quiet text-small">
			{tomorrow
				? t("Tomorrow starts %s with", clock(at))
				: t("%s starts %s with", shortDay(at.toPlainDate()), clock(at))}{" "}
			<Link to={`/meeting/${next.meetingId}`}>{next.title}</Link>.
		</p>
	);
}

type WaitingProps = {
	to: string;
	title: string;
	from: ReactNode;
	words: string;
	notes: ReactNode;
	error: Error | null;
	children: ReactNode;
};

/** One thing that waits for an answer. */
const Waiting = ({ to, title, from, words, notes, error, children }: WaitingProps) => (
	<li className="rounded-[4px] border border-rule border-l-[5px] border-l-moss bg-sheet px-3.5 py-2">
		<div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
			<div className="min-w-0 flex-1 basis-[240px]">
				<Link to={to} className="break-words font-[650] text-ink no-underline hover:underline">
					{title || t("Without a title")}
				</Link>{" "}
				<span className="text-quiet text-small">
					{t("from")} {from}
				</span>
				<span className="block text-quiet text-small">{words}</span>
				{notes}
			</div>
			{children}
		</div>
		{error && <Note tone="brick">{problemOf(error).detail}</Note>}
	</li>
);

/** What somebody outside asks for. */
function InvitedTo({ i }: { i: Schemas["InvitedTo"] }) {
	const answer = useAnswerInvitation(i);
	const to = `/invitation/${i.id}`;
	return (
		<Waiting
			to={to}
			title={i.title}
			from={
				<>
					{i.organiser} <Tag>{t("outside")}</Tag>
				</>
			}
			words={i.words}
			error={answer.error}
			notes={
				<>
					{i.doubt && <span className="block text-honey text-small">{t("Somebody else says that it changed.")}</span>}
					{i.unsent && <span className="block text-brick text-small">{t("Your answer did not get there.")}</span>}
				</>
			}
		>
			{i.doubt || i.unsent ? (
				<Link to={to} className={`${lookOf("plain")} text-ink`}>
					{t("Look")}
				</Link>
			) : (
				<Answers
					id={i.id}
					current="none"
					comment=""
					busy={answer.isPending}
					onGive={(given, comment) => answer.mutate({ answer: given, comment })}
				/>
			)}
		</Waiting>
	);
}

function Asked({ a }: { a: Schemas["AskedOf"] }) {
	const answer = useGiveAnswer(a.meetingId, a.sequence);
	return (
		<Waiting
			to={`/meeting/${a.meetingId}`}
			title={a.title}
			from={a.organiser}
			words={a.words}
			error={answer.error}
			notes={
				a.clashes.length > 0 && (
					<span className="block text-honey text-small">
						{t("You have %s then.", a.clashes.slice(0, 2).join("; "))}
					</span>
				)
			}
		>
			<Answers
				id={a.meetingId}
				current="none"
				comment=""
				busy={answer.isPending}
				onGive={(given, comment) => answer.mutate({ answer: given, comment })}
			/>
		</Waiting>
	);
}
