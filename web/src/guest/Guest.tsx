import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import type { Given, GivenAnswer } from "../api/answer";
import { api, ProblemError, problemOf, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";
import { Answers, WhichDates } from "../meeting/AnswerBar";
import { Bring } from "../meeting/Bring";
import { useProposeAsGuest } from "../proposals/deeds";
import { Propose } from "../proposals/Propose";
import { lookAt } from "../series/looked";
import { city, inZone, longDay, shortDay, times, zoneOf } from "../time/format";
import { InTongue } from "../tongue/InTongue";
import { many, type Term, t, term } from "../tongue/tongue";
import { Files } from "../ui/Files";
import { JoinCard } from "../ui/JoinCard";
import { lookOf, Note, Skeleton } from "../ui/kit";
import { Linked } from "../ui/Linked";
import { useLast } from "../ui/last";
import { TryAgain } from "../ui/TryAgain";
import { Gone } from "./Gone";
import { Head } from "./Head";

type GuestMeeting = Schemas["GuestMeeting"];

const useGuest = (token: string) =>
	useQuery({
		queryKey: keys.guest(token),
		queryFn: () => take(api.GET("/api/guest/{token}", { params: { path: { token } } })),
		refetchInterval: 30_000,
	});

function useGuestAnswer(token: string, sequence: number) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: GivenAnswer) =>
			take(api.POST("/api/guest/{token}/answer", { params: { path: { token } }, body: { sequence, ...body } })),
		onSettled: () => queries.invalidateQueries({ queryKey: keys.guest(token) }),
	});
}

function useBringAsGuest(token: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: Schemas["Brings"]) =>
			take(api.POST("/api/guest/{token}/bring", { params: { path: { token } }, body })),
		onSettled: () => queries.invalidateQueries({ queryKey: keys.guest(token) }),
	});
}

/** Has letters to the guest come in a language. */
function useLanguage(token: string) {
	const queries = useQueryClient();
	return useMutation({
		scope: { id: `language ${token}` },
		mutationFn: (language: string) =>
			take(api.POST("/api/guest/{token}/language", { params: { path: { token } }, body: { language } })),
		onSettled: () => queries.invalidateQueries({ queryKey: keys.guest(token) }),
	});
}

/** Keeps that this page has shown the meeting as it is; what is new since is said until it is left. */
function useSeen(token: string, m: GuestMeeting) {
	const { version, unseen } = m;
	const { mutate } = useMutation({
		mutationFn: () => take(api.POST("/api/guest/{token}/seen", { params: { path: { token } }, body: { version } })),
	});
	// biome-ignore lint/correctness/useExhaustiveDependencies: once for each version
	useEffect(() => {
		if (unseen) mutate();
	}, [unseen, version, mutate]);
	return useLast(m.since ?? null);
}

/** A meeting for somebody invited who has no account. */
export function Guest() {
	const { token = "" } = useParams();
	const guest = useGuest(token);
	const away = guest.error && !(guest.error instanceof ProblemError && guest.error.problem.status === 404);
	return (
		<main className="mx-auto max-w-[720px] px-4 py-[30px]">
			{guest.isPending && <Skeleton lines={6} />}
			{guest.data && <InTongue language={guest.data.language}>{() => <View m={guest.data} token={token} />}</InTongue>}
			{guest.error && !guest.data && !away && (
				<Gone
					title={
						token === "preview"
							? term("This is where the answer page will be")
							: term("This invitation is not there any more")
					}
					what={
						token === "preview"
							? term("Each person gets an address of their own when the sheet is sent.")
							: term(
									"You may have been taken off the list, a newer mail may have a new address, or this one is not complete. Ask whoever invited you.",
								)
					}
				/>
			)}
			{away && !guest.data && <TryAgain error={guest.error} again={() => guest.refetch()} />}
		</main>
	);
}

const answers: Record<Schemas["Answer"], Term> = {
	accepted: term("accepted"),
	maybe: term("maybe"),
	declined: term("declined"),
	none: term("not answered"),
};

/** The dates that the guest is invited to, with what they answered to each. */
function GuestDates(props: {
	series: NonNullable<GuestMeeting["series"]>;
	on: string;
	zone: string;
	allDay: boolean | undefined;
	onChoose: (on: string) => void;
}) {
	const { series, on, zone, onChoose } = props;
	return (
		<ol aria-label={t("Dates")} className="mb-1 grid grid-cols-[repeat(auto-fill,minmax(118px,1fr))]">
			{series.dates.map((d) => (
				<li
					key={d.on}
					className={`border border-rule ${d.on === on ? "shadow-[inset_0_-3px_0_var(--color-fig)]" : ""}`}
				>
					<button
						type="button"
						aria-pressed={d.on === on}
						disabled={d.state === "off"}
						className="flex size-full flex-col px-2 py-1.5 text-left text-small enabled:hover:bg-ink/5"
						onClick={() => onChoose(d.on)}
					>
						<b className={`block font-[650] ${d.state === "off" ? "line-through" : ""}`}>
							{shortDay(inZone(d.start, zone).toPlainDate())}
						</b>
						<span className="block">{props.allDay ? t("all day") : times(d.start, d.end, zone)}</span>
						<span className="block text-quiet">
							{d.state === "off" ? t("called off") : d.state === "held" ? t("held") : t(answers[d.mine ?? "none"])}
						</span>
					</button>
				</li>
			))}
		</ol>
	);
}

const thanks: Record<Given, Term> = {
	accepted: term("You accepted."),
	maybe: term("You answered maybe."),
	declined: term("You declined."),
};

function View({ m: meeting, token }: { m: GuestMeeting; token: string }) {
	const [on, setOn] = useState("");
	const [one, setOne] = useState(false);
	const { date, shown: m } = lookAt(meeting, on);
	const single = one && date?.state === "coming" ? date : undefined;
	const given = single?.mine ?? m.answer;
	const answer = useGuestAnswer(token, m.sequence);
	const propose = useProposeAsGuest(token);
	const bring = useBringAsGuest(token);
	const language = useLanguage(token);
	const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
	const known = [...new Set([m.guestZone, here, m.zone].filter(Boolean))];
	const [chosen, setZone] = useState(known[0] ?? m.zone);
	const zone = zoneOf(m, chosen);
	const day = inZone(m.start, zone).toPlainDate();
	const problem = answer.error && problemOf(answer.error);
	const since = useSeen(token, meeting);
	const repeats = (s: NonNullable<GuestMeeting["series"]>) =>
		[s.words, s.open ? t("without an end") : many(s.count, "%d date", "%d dates")].filter(Boolean);
	return (
		<div className="rounded-[4px] border border-rule border-t-[6px] border-t-moss bg-sheet px-8 py-6 max-sm:px-4">
			<Head
				by={t("%[1]s, %[2]s, invites %[3]s", m.organiser.name, m.house, m.guest.name)}
				m={m}
				repeats={m.series && repeats(m.series).join(m.series.open ? ", " : " · ")}
				zone={zone}
				zoneShown={
					<select
						hidden={m.allDay}
						aria-label={t("Show the time in")}
						className="rounded-[3px] bg-transparent text-[14px] text-quiet"
						value={zone}
						onChange={(e) => setZone(e.target.value)}
					>
						{known.map((z) => (
							<option key={z} value={z}>
								{t("%s time", city(z))}
							</option>
						))}
					</select>
				}
			>
				{since && !m.calledOff && (
					<div className="mt-3">
						<Note tone="honey">
							<b>{t("Changed since you last looked:")}</b> {since.words}.
							{since.wasStart &&
								since.wasEnd &&
								` ${t("It was %s.", `${longDay(inZone(since.wasStart, zone).toPlainDate())}, ${times(since.wasStart, since.wasEnd, zone)}`)}`}
						</Note>
					</div>
				)}
			</Head>
			{m.calledOff ? (
				<div className="mt-4">
					<Note tone="brick">
						<b>{t("This meeting has been called off.")}</b> {t("There is nothing left to answer.")}
					</Note>
				</div>
			) : (
				<div className="mt-4 flex flex-col gap-2">
					{problem && <Note tone="brick">{problem.detail}</Note>}
					{m.series && (
						<GuestDates series={m.series} on={date?.on ?? ""} zone={zone} allDay={m.allDay} onChoose={setOn} />
					)}
					{date?.state === "coming" && (m.series?.count ?? 2) !== 1 && (
						<WhichDates one={one} setOne={setOne} day={shortDay(day)} />
					)}
					{given !== "none" && (
						<Note tone="moss">
							<b>{t(thanks[given])}</b>{" "}
							{t("%s sees it. You can change your answer until the meeting begins.", m.organiser.name)}
						</Note>
					)}
					<Answers
						key={single?.on ?? "all"}
						current={given}
						comment={single ? "" : m.comment}
						busy={answer.isPending}
						onGive={(answered, comment) =>
							answer.mutate({
								answer: answered,
								comment,
								...(single && { on: single.on, sequence: single.mySequence }),
							})
						}
					/>
				</div>
			)}
			{!m.calledOff && (
				<div className="mt-2">
					<Propose
						start={m.start}
						end={m.end}
						allDay={m.allDay}
						zone={zone}
						on={date?.state === "coming" ? date.on : undefined}
						sequence={m.sequence}
						proposed={m.proposed}
						organiser={m.organiser.name}
						mayMove={m.mayMove}
						send={propose}
					/>
					{m.mayBring && <Bring organiser={m.organiser.name} send={bring} />}
				</div>
			)}
			<div className="mt-[18px] grid gap-7 md:grid-cols-[minmax(0,1fr)_290px]">
				<div className="min-w-0">
					{m.text && (
						<p className="mb-4 whitespace-pre-line break-words">
							<Linked>{m.text}</Linked>
						</p>
					)}
					{m.files && !m.calledOff && (
						<div className="mb-4">
							<h2 className="mb-1 text-[15px]">{t("Files")}</h2>
							<Files files={m.files} at={`/api/guest/${token}/files`} />
						</div>
					)}
					{!m.calledOff && (
						<div className="mb-4">
							<h2 className="text-[15px]">{t("Put it in your calendar")}</h2>
							<p className="my-1 text-quiet text-small">
								{t(
									"The file opens in any calendar program and keeps the join details; what you subscribe to follows every change by itself.",
								)}
							</p>
							<span className="flex flex-wrap gap-2">
								<a href={`/api/guest/${token}/file`} className={`${lookOf("plain")} text-ink`}>
									{t("Calendar file (.ics)")}
								</a>
								<a
									href={`${location.origin.replace(/^http/, "webcal")}/guest/${token}/calendar.ics`}
									className={`${lookOf("plain")} text-ink`}
								>
									{t("Subscribe, follows changes")}
								</a>
							</span>
						</div>
					)}
					<h2 className="text-[15px]">{t("People")}</h2>
					<p className="text-small">{m.names.join(", ")}</p>
				</div>
				{m.card && !m.calledOff && (
					<JoinCard card={m.card}>
						<p className="mt-2 text-quiet text-small">{t("No account needed.")}</p>
					</JoinCard>
				)}
			</div>
			<p className="mt-[22px] border-rule border-t pt-2.5 text-quiet text-small">
				{t("This page is for %s. Not you? Do not pass it on.", m.guest.email)}
				<label className="mt-1 block">
					{t("This page, and mails to you, are in")}{" "}
					<select
						className="rounded-[3px] border border-rule bg-white px-1 py-px text-ink"
						value={language.variables ?? m.language}
						disabled={language.isPending}
						onChange={(e) => language.mutate(e.target.value)}
					>
						{m.languages.map((l) => (
							<option key={l.code} value={l.code} lang={l.code}>
								{l.name}
							</option>
						))}
					</select>
				</label>
			</p>
		</div>
	);
}
