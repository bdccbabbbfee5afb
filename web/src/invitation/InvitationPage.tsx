import { useState } from "react";
import { useParams } from "react-router";
import { ProblemError, problemOf } from "../api/client";
import { useSignedIn } from "../api/me";
import { Answers, WhichDates } from "../meeting/AnswerBar";
import { Lost } from "../shell/Lost";
import { useTitle } from "../shell/title";
import { dayNear, inZone, shortDay, times } from "../time/format";
import { useNow } from "../time/now";
import { t, term } from "../tongue/tongue";
import { JoinCard } from "../ui/JoinCard";
import { Button, lookOf, Note, Skeleton, Tag } from "../ui/kit";
import { Linked } from "../ui/Linked";
import { TryAgain } from "../ui/TryAgain";
import { type Invitation, useAnswerInvitation, useBelieve, useInvitation } from "./deeds";

/** A meeting of somebody outside to which the reader is invited. */
export function InvitationPage() {
	const { id = "" } = useParams();
	const invitation = useInvitation(id);
	if (invitation.data) return <View i={invitation.data} />;
	if (invitation.error instanceof ProblemError && [400, 404].includes(invitation.error.problem.status))
		return <Lost what={t("This invitation is not there")} />;
	if (invitation.error)
		return (
			<main className="p-5">
				<TryAgain error={invitation.error} again={() => invitation.refetch()} />
			</main>
		);
	return <Skeleton lines={6} />;
}

type Dates = Invitation["dates"];

function useSpelled() {
	const { zone } = useSignedIn();
	const now = useNow();
	return (d: Dates[number]) => {
		const day = inZone(d.start, zone).toPlainDate();
		return `${dayNear(day, now.toZonedDateTimeISO(zone).toPlainDate())}${d.wholeDay ? `, ${t("all day")}` : `, ${times(d.start, d.end, zone)}`}`;
	};
}

const said = { accepted: term("accepted"), maybe: term("maybe"), declined: term("declined") };

function View({ i }: { i: Invitation }) {
	useTitle(i.title);
	const answer = useAnswerInvitation(i);
	const spelled = useSpelled();
	const { zone } = useSignedIn();
	const [on, setOn] = useState("");
	const [one, setOne] = useState(false);
	const [first] = i.dates;
	const date = i.dates.find((d) => d.on === on) ?? first;
	const single = one && i.dates.length > 1 ? date : undefined;
	const fault = answer.error && problemOf(answer.error);
	return (
		<main className="grid flex-1 grid-cols-1 content-start gap-5 px-5 py-4 lg:grid-cols-[minmax(0,1fr)_330px]">
			<section className="min-w-0">
				<p className="text-quiet text-small">
					{i.organiser}
					{i.organiser !== i.organiserAddress && `, ${i.organiserAddress},`}{" "}
					{i.room ? t("asks for %s", i.room) : t("invites you")} <Tag>{t("outside")}</Tag>
				</p>
				<h1 className={`break-words text-[27px] leading-[1.15] ${i.off ? "line-through" : ""}`}>
					{i.title || t("Without a title")}
				</h1>
				{date && <p className="mt-1 text-[15px]">{spelled(date)}</p>}
				{i.place && (
					<p className="break-words text-quiet">
						<Linked>{i.place}</Linked>
					</p>
				)}
				{i.doubt && <Doubt i={i} doubt={i.doubt} />}
				{i.off ? (
					<div className="mt-3">
						<Note>{t("This meeting has been called off by %s.", i.organiser)}</Note>
					</div>
				) : (
					<div className="mt-3 rounded-[4px] border-[1.5px] border-honey border-dashed bg-sheet px-3 py-2.5">
						{fault && <Note tone="brick">{fault.errors?.[0]?.detail ?? fault.detail}</Note>}
						{date && i.dates.length > 1 && (
							<div className="mb-2">
								<WhichDates one={one} setOne={setOne} day={shortDay(inZone(date.start, zone).toPlainDate())} />
							</div>
						)}
						<Answers
							key={`${i.version} ${single?.on ?? ""}`}
							current={single?.answer ?? i.answer}
							comment={single ? (single.comment ?? "") : i.comment}
							busy={answer.isPending}
							onGive={(given, comment) => answer.mutate({ answer: given, comment, ...(single && { on: single.on }) })}
						/>
						<Reply i={i} />
					</div>
				)}
				{i.dates.length > 1 && (
					<>
						<h2 className="mt-4 text-[17px]">{t("Dates")}</h2>
						<ul aria-label={t("Dates")} className="mt-1 flex flex-col items-start">
							{i.dates.map((d) => (
								<li key={d.on} className="flex flex-wrap items-baseline gap-x-2">
									<button
										type="button"
										aria-pressed={d === date}
										className={`rounded-[3px] px-1 hover:bg-ink/5 ${d === date ? "font-[650] shadow-[inset_0_-3px_0_var(--color-fig)]" : ""}`}
										onClick={() => {
											setOn(d.on);
											setOne(!i.off);
										}}
									>
										{spelled(d)}
									</button>
									{d.answer && (
										<span className="text-quiet text-small">{d.answer !== "none" && t(said[d.answer])}</span>
									)}
								</li>
							))}
						</ul>
					</>
				)}
				{i.text && (
					<>
						<h2 className="mt-4 text-[17px]">{t("Text")}</h2>
						<p className="mt-1 max-w-[640px] whitespace-pre-line break-words">
							<Linked>{i.text}</Linked>
						</p>
					</>
				)}
				{i.names.length > 0 && (
					<>
						<h2 className="mt-4 text-[17px]">{t("People")}</h2>
						<p className="mt-1 break-words">{i.names.join(", ")}</p>
					</>
				)}
			</section>
			<aside className="flex flex-col gap-3.5">
				{i.card && !i.off && <JoinCard card={i.card} />}
				<a href={`/api/invitations/${i.id}/file`} className={`${lookOf("plain")} self-start text-ink`}>
					{t("Calendar file (.ics)")}
				</a>
				<p className="text-quiet text-small">
					{i.room
						? t("It came by mail for %s, which you keep: your answer is that of the room.", i.attendee)
						: t("It came by mail for %s.", i.attendee)}{" "}
					{t("Changes that %s sends show here by themselves.", i.organiser)}
				</p>
			</aside>
		</main>
	);
}

/** How far the answer came. */
function Reply({ i }: { i: Invitation }) {
	if (i.reply === "queued") return <p className="mt-1.5 text-quiet text-small">{t("Your answer is on its way.")}</p>;
	if (i.reply === "handed")
		return (
			<p className="mt-1.5 text-quiet text-small">
				{t("Your answer went to %s. You can change it.", i.organiserAddress)}
			</p>
		);
	if (i.reply === "failed")
		return (
			<p className="mt-1.5 text-brick text-small">
				{t("Your answer was refused:")} {i.replyDetail}. {t("Tell %s in another way.", i.organiser)}
			</p>
		);
	return null;
}

/** Somebody else than the organiser changes it: it is not believed by itself. */
function Doubt({ i, doubt }: { i: Invitation; doubt: NonNullable<Invitation["doubt"]> }) {
	const believe = useBelieve(i.id);
	const spelled = useSpelled();
	const [first] = doubt.dates ?? [];
	return (
		<div className="mt-3">
			<Note>
				<b>{t("%s says that this meeting is another one now.", doubt.from)}</b>{" "}
				{t("%s organises it as far as is known here, so nothing was changed.", i.organiserAddress)}
				<span className="block">
					{doubt.off
						? t("It would be called off.")
						: t("It would be “%s”%s.", doubt.title, first ? `, ${spelled(first)}` : "")}
				</span>
				<span className="mt-1.5 flex flex-wrap gap-2">
					<Button busy={believe.isPending} onClick={() => believe.mutate(true)}>
						{t("Take it as theirs")}
					</Button>
					<Button busy={believe.isPending} onClick={() => believe.mutate(false)}>
						{t("Forget it")}
					</Button>
				</span>
				{believe.error && <span className="block text-brick">{problemOf(believe.error).detail}</span>}
			</Note>
		</div>
	);
}
