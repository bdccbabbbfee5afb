import { useEffect, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { Temporal } from "temporal-polyfill";
import { ProblemError, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { useReadNews } from "../news/deeds";
import { useProposals, usePropose } from "../proposals/deeds";
import { ProposalCard } from "../proposals/ProposalCard";
import { Propose } from "../proposals/Propose";
import { lookAt } from "../series/looked";
import { Lost } from "../shell/Lost";
import { useTitle } from "../shell/title";
import { city, clock, dayNear, inZone, moment, month, sameClock, shortDay, spell, zoneOf } from "../time/format";
import { useNow } from "../time/now";
import { many, t } from "../tongue/tongue";
import { Files } from "../ui/Files";
import { JoinCard } from "../ui/JoinCard";
import { Button, lookOf, Note, Plate, Skeleton, Tag } from "../ui/kit";
import { Linked } from "../ui/Linked";
import { TryAgain } from "../ui/TryAgain";
import { AnswerBar } from "./AnswerBar";
import { Bring } from "./Bring";
import { CallOffQuestion } from "./CallOffQuestion";
import { useBring, useChangeMeeting, useDecideRoom, useMeeting } from "./deeds";
import { Letters } from "./Letters";
import { OwnReminders } from "./OwnReminders";
import { PeopleTable } from "./PeopleTable";
import { SeriesDates } from "./SeriesDates";
import { ShortAddress } from "./ShortAddress";
import { useCopyKey } from "./useCopyKey";

type Meeting = Schemas["Meeting"];

/** What became of a meeting: who was reached how, and what they answered. */
export function MeetingPage() {
	const { id = "" } = useParams();
	const meeting = useMeeting(id);
	if (meeting.data) return <View m={meeting.data} />;
	if (meeting.error instanceof ProblemError && [400, 404].includes(meeting.error.problem.status))
		return <Lost what={t("This meeting is not there")} />;
	if (meeting.error)
		return (
			<main className="p-5">
				<TryAgain error={meeting.error} again={() => meeting.refetch()} />
			</main>
		);
	return <Skeleton lines={6} />;
}

function View({ m: meeting }: { m: Meeting }) {
	const me = useSignedIn();
	const zone = zoneOf(meeting, me.zone);
	const now = useNow();
	const [params, setParams] = useSearchParams();
	const { date, shown: m } = lookAt(meeting, params.get("date"));
	const on = date?.on ?? "";
	const off = date?.state === "off";
	const series = meeting.series;
	useCopyKey(m.card);
	useTitle(m.title);
	const { mutate: read } = useReadNews();
	// What is new about it counts as read once it is looked at.
	useEffect(() => read({ meetingId: meeting.id }), [read, meeting.id]);
	const day = inZone(m.start, zone).toPlainDate();
	return (
		<main className="grid flex-1 grid-cols-1 content-start gap-5 px-5 py-4 lg:grid-cols-[minmax(0,1fr)_330px]">
			<section className="min-w-0">
				<div className="flex flex-wrap items-start gap-3.5">
					<div className="min-w-0 flex-1">
						<div className="text-quiet text-small">
							<Link to={`/weeks?from=${day}&meeting=${m.id}${on && `&date=${on}`}`}>{t("Weeks")}</Link> / {day.day}{" "}
							{month(day)}
							{series && ` · ${series.words}`}
						</div>
						<h1 className={`break-words text-[27px] leading-[1.15] ${m.calledOff || off ? "line-through" : ""}`}>
							{m.title}
						</h1>
						<p className="mt-1 text-[15px]">
							{dayNear(day, now.toZonedDateTimeISO(me.zone).toPlainDate())}
							{spell(m, zone)}{" "}
							<span className="text-quiet">
								{!m.allDay && elsewhere(m, zone)}
								{m.free && ` · ${t("leaves time clear")}`}
							</span>
							{m.room && (
								<>
									{" · "}
									<RoomPlate room={m.room} />{" "}
									{m.calledOff || off ? <Tag>{t("given back")}</Tag> : <RoomTag state={meeting.room?.state} />}
								</>
							)}
							{m.private && (
								<>
									{" · "}
									<Tag>{t("private")}</Tag>
								</>
							)}
						</p>
					</div>
					{m.mine && !m.calledOff && <Deeds m={meeting} on={on} off={off} one={params.has("date")} />}
				</div>
				{!m.calledOff && !off && m.mine && <RoomNews m={meeting} />}
				{meeting.callTrouble && <CallTrouble m={meeting} />}
				{!m.calledOff && meeting.room?.unsure?.map((day) => <StillNeeded key={day} m={meeting} on={day} />)}
				{m.calledOff && (
					<div className="mt-3">
						<Note>{t("This meeting has been called off.")}</Note>
					</div>
				)}
				{m.myAnswer && !m.calledOff && (
					<div className="mt-3 rounded-[4px] border-[1.5px] border-honey border-dashed bg-sheet px-3 py-2.5">
						<p className="mb-2">
							<b>{t("%s asks you to come.", m.organiser.name)}</b>
						</p>
						<AnswerBar meeting={meeting} on={on} />
						<div className="mt-2">
							<ProposeHere m={m} on={date?.state === "coming" ? on : ""} zone={zone} />
							{m.mayBring && <BringHere m={m} />}
						</div>
					</div>
				)}
				{off && !m.calledOff && (
					<div className="mt-3">
						<Note>{t("This date has been called off; the others go on.")}</Note>
					</div>
				)}
				{series && !m.calledOff && <Story m={meeting} series={series} />}
				{series && !m.calledOff && (
					<SeriesDates
						m={meeting}
						series={series}
						on={on}
						onChoose={(d) => setParams({ date: d }, { replace: true })}
					/>
				)}
				<PeopleTable m={m} />
				{m.mine && !m.calledOff && <Proposals id={m.id} />}
				<Letters m={meeting} zone={zone} />
				{m.text && (
					<>
						<h2 className="mt-4 text-[17px]">{t("Text")}</h2>
						<p className="mt-1 max-w-[640px] whitespace-pre-line break-words">
							<Linked>{m.text}</Linked>
						</p>
					</>
				)}
				{m.files && (
					<>
						<h2 className="mt-4 mb-1 text-[17px]">{t("Files")}</h2>
						<Files files={m.files} at="/api/files" />
					</>
				)}
			</section>
			<aside className="flex flex-col gap-3.5">
				{m.card && !m.calledOff && <JoinCard card={m.card} withKey />}
				{!m.calledOff && (
					<a href={`/api/meetings/${m.id}/file`} className={`${lookOf("plain")} self-start text-ink`}>
						{t("Calendar file (.ics)")}
					</a>
				)}
				{m.mine && !m.calledOff && <ShortAddress m={m} />}
				{m.myAnswer && !m.calledOff && <OwnReminders m={m} />}
				{m.happenings.length > 0 && <History m={m} zone={zone} />}
			</aside>
		</main>
	);
}

/** Somebody asked proposes another time: for the date that is looked at, of a series. */
function ProposeHere({ m, on, zone }: { m: Meeting; on: string; zone: string }) {
	const send = usePropose(m.id);
	return (
		<Propose
			start={m.start}
			end={m.end}
			allDay={m.allDay}
			zone={zone}
			on={on}
			sequence={m.mySequence ?? 0}
			proposed={m.proposed}
			organiser={m.organiser.name}
			mayMove={m.mayMove}
			send={send}
		/>
	);
}

const BringHere = ({ m }: { m: Meeting }) => <Bring organiser={m.organiser.name} send={useBring(m.id)} />;

/** The other times that people propose, side by side. */
function Proposals({ id }: { id: string }) {
	const proposals = useProposals(id, true);
	if (!proposals.data?.items.length) return null;
	return (
		<section className="mt-4" aria-label={t("Other times proposed")}>
			<h2 className="text-[17px]">
				{t("Other times proposed")}{" "}
				<span className="font-normal font-sans text-[14px] text-quiet">{proposals.data.items.length}</span>
			</h2>
			<ul className="mt-2 grid gap-2.5 xl:grid-cols-2">
				{proposals.data.items.map((p) => (
					<ProposalCard key={p.id} meetingId={id} p={p} />
				))}
			</ul>
		</section>
	);
}

const RoomPlate = ({ room }: { room: NonNullable<Meeting["room"]> }) =>
	room.id ? (
		<Link to={`/room/${room.id}`} className="text-ink no-underline hover:underline">
			<Plate>{room.name}</Plate>
		</Link>
	) : (
		<Plate>{room.name}</Plate>
	);

const RoomTag = ({ state }: { state: Schemas["MeetingRoom"]["state"] }) =>
	state === "asked" ? (
		<Tag tone="honey">{t("asked")}</Tag>
	) : state === "refused" ? (
		<Tag tone="brick">{t("refused")}</Tag>
	) : (
		<Tag tone="moss">{t("booked")}</Tag>
	);

/** Something keeps people from the call: another one is a press away. */
function CallTrouble({ m }: { m: Schemas["Meeting"] }) {
	const change = useChangeMeeting(m.id);
	return (
		<div className="mt-3">
			<Note>
				{m.callTrouble}{" "}
				<Button look="bare" busy={change.isPending} onClick={() => change.mutate({})}>
					{t("Take another call")}
				</Button>
			</Note>
		</div>
	);
}

/** What the keeper of the room is asked, or said. */
function RoomNews({ m }: { m: Meeting }) {
	const change = useChangeMeeting(m.id);
	if (!m.room?.words) return null;
	const refused = m.room.state === "refused";
	return (
		<div className="mt-3">
			<Note tone={refused ? "brick" : "honey"}>
				<b>{m.room.name}:</b> {m.room.words}.{" "}
				{refused && (
					<Button look="bare" busy={change.isPending} onClick={() => change.mutate({})}>
						{t("Take another room")}
					</Button>
				)}
			</Note>
		</div>
	);
}

/** Nobody has said that they come, and it is soon: is the room still needed? */
function StillNeeded({ m, on }: { m: Meeting; on: string }) {
	const decide = useDecideRoom(m.id);
	return (
		<div className="mt-3">
			<Note>
				<b>
					{m.series
						? t("Nobody has said that they come on %s.", shortDay(Temporal.PlainDate.from(on)))
						: t("Nobody has said that they come.")}
				</b>{" "}
				{t("Is %s still needed?", m.room?.name)}{" "}
				<Button look="bare" busy={decide.isPending} onClick={() => decide.mutate({ on, needed: false })}>
					{t("Give it back")}
				</Button>{" "}
				<Button look="bare" disabled={decide.isPending} onClick={() => decide.mutate({ on, needed: true })}>
					{t("Keep it")}
				</Button>
				{decide.error && <span className="block text-brick">{problemOf(decide.error).detail}</span>}
			</Note>
		</div>
	);
}

type DeedsProps = { m: Meeting; on: string; off: boolean; one: boolean };

/** What the organiser can do. Where one date of a series was chosen, a change begins with that date. */
function Deeds({ m, on, off, one }: DeedsProps) {
	const change = useChangeMeeting(m.id);
	const [asking, setAsking] = useState(false);
	return (
		<div className="flex flex-wrap gap-2">
			<Button busy={change.isPending} onClick={() => change.mutate(on && !off ? { at: on, one } : {})}>
				{t("Change")}
			</Button>
			{m.series && !m.series.open && !m.series.goesOnIn && (
				<Button busy={change.isPending} onClick={() => change.mutate({ extend: true })}>
					{t("Extend…")}
				</Button>
			)}
			{(!m.series || m.series.open || m.series.left > 0) && (
				<Button look="stop" onClick={() => setAsking(true)}>
					{t("Call off…")}
				</Button>
			)}
			{change.error && <Note tone="brick">{problemOf(change.error).detail}</Note>}
			{asking && <CallOffQuestion m={m} on={on} onClose={() => setAsking(false)} />}
		</div>
	);
}

/** Where a series comes from and goes on, and that its end is near. */
function Story({ m, series }: { m: Meeting; series: NonNullable<Meeting["series"]> }) {
	return (
		<>
			{series.near && m.mine && !series.goesOnIn && (
				<div className="mt-3">
					<Note>
						<b>{many(series.left, "One date is left.", "%d dates are left.")}</b>{" "}
						{t("Extend it before it runs out: people and rooms are looked at first.")}
					</Note>
				</div>
			)}
			{(series.goesOnFrom || series.goesOnIn) && (
				<p className="mt-2 text-small">
					{series.goesOnFrom && <Link to={`/meeting/${series.goesOnFrom}`}>{t("The dates before")}</Link>}
					{series.goesOnFrom && series.goesOnIn && " · "}
					{series.goesOnIn && <Link to={`/meeting/${series.goesOnIn}`}>{t("It goes on here")}</Link>}
				</p>
			)}
		</>
	);
}

/** The zone, and what clocks show at the places of those invited. */
function elsewhere(m: Meeting, zone: string) {
	const parts = [city(zone)];
	const others = new Set([m.zone, ...m.participants.map((p) => p.zone ?? "")]);
	for (const other of others)
		if (other && !sameClock(m.start, other, zone))
			parts.push(t("%s in %s", clock(inZone(m.start, other)), city(other)));
	return parts.join(" · ");
}

function History({ m, zone }: { m: Meeting; zone: string }) {
	const now = useNow();
	return (
		<section className="rounded-[4px] border border-rule bg-sheet px-3.5 py-3">
			<h2 className="text-[15px]">{t("What happened")}</h2>
			<ol className="mt-1.5 grid grid-cols-[88px_minmax(0,1fr)] gap-y-1.5 text-[13px]">
				{m.happenings.map((h, i) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: lines of a history stay in place
					<li key={i} className="contents">
						<time dateTime={h.at} className="text-quiet">
							{moment(h.at, zone, now)}
						</time>
						<span className="break-words">{h.words}</span>
					</li>
				))}
			</ol>
		</section>
	);
}
