import { Link } from "react-router";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { city, clock, dayMonth, inZone, moment, sameClock } from "../time/format";
import { useNow } from "../time/now";
import { type Term, t, term } from "../tongue/tongue";
import { Plate, Tag } from "../ui/kit";
import { AnswerTag } from "./AnswerTag";

type Meeting = Schemas["Meeting"];

export function PeopleTable({ m }: { m: Meeting }) {
	const { zone } = useSignedIn();
	return (
		<>
			<h2 className="mt-4 text-[17px]">
				{t("People")} <span className="font-normal font-sans text-[14px] text-quiet">{counts(m)}</span>
			</h2>
			{/* biome-ignore lint/a11y/noNoninteractiveTabindex: a wide table has to be scrolled by keyboard */}
			<section aria-label={t("People")} tabIndex={0} className="mt-2 overflow-x-auto border border-rule bg-sheet">
				<table className="w-full border-collapse text-body">
					<thead>
						<tr className="border-rule border-b text-left text-quiet text-small">
							<th className="px-2.5 py-1 font-normal">{t("Participant")}</th>
							{m.mine && (
								<th className="px-2.5 py-1 font-normal">{m.calledOff ? t("Last message") : t("Invitation")}</th>
							)}
							<th className="px-2.5 py-1 font-normal">{t("Answer")}</th>
						</tr>
					</thead>
					<tbody>
						{!m.mine && (
							<tr className="border-[#eae4d8] border-b align-top">
								<td className="px-2.5 py-[7px]">
									<b className="font-[650]">{m.organiser.name}</b>{" "}
									<span className="text-quiet">{m.organiser.email}</span>
								</td>
								<td className="px-2.5 py-[7px]">
									<Tag>{t("organises")}</Tag>
								</td>
							</tr>
						)}
						{m.participants.map((p) => (
							<tr key={p.id} className="border-[#eae4d8] border-b align-top last:border-b-0">
								<td className="px-2.5 py-[7px]">
									<b className="font-[650]">{p.name}</b> {p.outside && <Tag>{t("outside")}</Tag>}{" "}
									<span className="text-quiet">
										{p.needed ? t("needed") : t("optional")}
										{p.instead && ` · ${t("in place of %s", p.instead)}`}
										{p.broughtBy && ` · ${t("brought by %s", p.broughtBy)}`}
										{p.dates && ` · ${p.dates}`}
										{p.outside && p.name !== p.email && ` · ${p.email}`}
										{p.zone &&
											!sameClock(m.start, p.zone, zone) &&
											` · ${t("%s in %s", clock(inZone(m.start, p.zone)), city(p.zone))}`}
									</span>
								</td>
								{m.mine && (
									<td className="px-2.5 py-[7px]">
										<Reached p={p} />
									</td>
								)}
								<td className="px-2.5 py-[7px]">
									{p.sends ? <Tag>{t("sends %s", p.sends)}</Tag> : <AnswerTag participant={p} />}{" "}
									{p.comment && <span className="break-words">“{p.comment}”</span>}
									{p.answersOn?.map((a) => (
										<div key={a.on} className="mt-0.5 text-small">
											{dayWords(a.on)}: {t(answerWords[a.answer])} {a.comment && `“${a.comment}”`}
										</div>
									))}
								</td>
							</tr>
						))}
						{m.room && (
							<tr className="border-[#eae4d8] border-t align-top">
								<td className="px-2.5 py-[7px]">
									<Plate>{m.room.name}</Plate>{" "}
									<span className="text-quiet">{t("seats %s · %s", m.room.seats, m.room.place)}</span>
								</td>
								{m.mine && <td className="px-2.5 py-[7px] text-quiet">{t("answers at once")}</td>}
								<td className="px-2.5 py-[7px]">
									{m.calledOff ? <Tag>{t("given back")}</Tag> : <Tag tone="moss">{t("booked")}</Tag>}
								</td>
							</tr>
						)}
					</tbody>
				</table>
				{m.participants.length === 0 && (
					<p className="p-3 text-quiet text-small">{t("Nobody else is invited. Change the meeting to add people.")}</p>
				)}
			</section>
		</>
	);
}

const answerWords: Record<Schemas["Answer"], Term> = {
	accepted: term("accepted"),
	maybe: term("maybe"),
	declined: term("declined"),
	none: term("asked again"),
};

const dayWords = (on: string) => dayMonth(Temporal.PlainDate.from(on));

const inside: Record<Schemas["Dispatch"]["kind"], Term> = {
	invite: term("in Jembro, %s"),
	update: term("change in Jembro, %s"),
	calloff: term("cancellation in Jembro, %s"),
};

const sent: typeof inside = {
	invite: term("e-mail %s %s"),
	update: term("change e-mail %s %s"),
	calloff: term("cancellation e-mail %s %s"),
};

const back: typeof inside = {
	invite: term("e-mail came back; %s"),
	update: term("change e-mail came back; %s"),
	calloff: term("cancellation e-mail came back; %s"),
};

const stages: Record<Schemas["Dispatch"]["stage"], Term> = {
	none: term("handed over"),
	handed: term("handed over"),
	relayed: term("taken by their server"),
	delivered: term("in the mailbox"),
	seen: term("opened"),
};

/** How the newest message went out. */
function Reached({ p }: { p: Schemas["Participant"] }) {
	const { zone } = useSignedIn();
	const now = useNow();
	const d = p.dispatch;
	if (!d) return null;
	const at = moment(d.at, zone, now);
	if (d.channel === "inside") return <>{t(inside[d.kind], at)}</>;
	if (d.state === "handed") return <>{t(sent[d.kind], t(stages[d.stage]), at)}</>;
	if (d.state === "mended") return <>{t(back[d.kind], d.detail)}</>;
	if (d.state === "failed" || d.state === "open")
		return (
			<>
				{d.state === "failed" ? <Tag tone="brick">{t("not delivered")}</Tag> : <Tag tone="honey">{t("under way")}</Tag>}{" "}
				<span className="break-words text-small">{d.detail}</span>{" "}
				<Link to={`/dispatch?message=${d.id}`} className="whitespace-nowrap text-small underline">
					{t("Other ways")}
					<span className="sr-only"> {t("to %s", p.name)}</span>
				</Link>
			</>
		);
	return (
		<>
			<Tag tone="honey">{t("not yet handed over")}</Tag>{" "}
			<span className="text-small">
				{d.detail ? t("The mail server does not answer; it is tried again by itself.") : t("on its way")}
			</span>
		</>
	);
}

function counts(m: Meeting) {
	const of = (answer: Schemas["Answer"]) => m.participants.filter((p) => p.answer === answer);
	const unreached = of("none").filter((p) => p.dispatch?.state === "failed").length;
	const parts: [number, Term][] = [
		[of("accepted").length, term("%s accepted")],
		[of("maybe").length, term("%s maybe")],
		[of("declined").length, term("%s declined")],
		[of("none").length - unreached, term("%s silent")],
		[unreached, term("%s not reached")],
	];
	return parts
		.filter(([n]) => n > 0)
		.map(([n, words]) => t(words, n))
		.join(" · ");
}
