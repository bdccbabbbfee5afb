import { Link } from "react-router";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { city, clock, inZone, moment, sameClock, shortDay } from "../time/format";
import { useNow } from "../time/now";
import { Plate, Tag } from "../ui/kit";
import { AnswerTag } from "./AnswerTag";

type Meeting = Schemas["Meeting"];

export function PeopleTable({ m }: { m: Meeting }) {
	const { zone } = useSignedIn();
	return (
		<>
			<h2 className="mt-4 text-[17px]">
				People <span className="font-normal font-sans text-[14px] text-quiet">{counts(m)}</span>
			</h2>
			{/* biome-ignore lint/a11y/noNoninteractiveTabindex: a wide table has to be scrolled by keyboard */}
			<section aria-label="People" tabIndex={0} className="mt-2 overflow-x-auto border border-rule bg-sheet">
				<table className="w-full border-collapse text-body">
					<thead>
						<tr className="border-rule border-b text-left text-quiet text-small">
							<th className="px-2.5 py-1 font-normal">Participant</th>
							{m.mine && <th className="px-2.5 py-1 font-normal">{m.calledOff ? "Last message" : "Invitation"}</th>}
							<th className="px-2.5 py-1 font-normal">Answer</th>
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
									<Tag>organises</Tag>
								</td>
							</tr>
						)}
						{m.participants.map((p) => (
							<tr key={p.id} className="border-[#eae4d8] border-b align-top last:border-b-0">
								<td className="px-2.5 py-[7px]">
									<b className="font-[650]">{p.name}</b> {p.outside && <Tag>outside</Tag>}{" "}
									<span className="text-quiet">
										{p.needed ? "needed" : "optional"}
										{p.instead && ` · in place of ${p.instead}`}
										{p.broughtBy && ` · brought by ${p.broughtBy}`}
										{p.dates && ` · ${p.dates}`}
										{p.outside && p.name !== p.email && ` · ${p.email}`}
										{p.zone &&
											!sameClock(m.start, p.zone, zone) &&
											` · ${clock(inZone(m.start, p.zone))} in ${city(p.zone)}`}
									</span>
								</td>
								{m.mine && (
									<td className="px-2.5 py-[7px]">
										<Reached p={p} />
									</td>
								)}
								<td className="px-2.5 py-[7px]">
									{p.sends ? <Tag>sends {p.sends}</Tag> : <AnswerTag participant={p} />}{" "}
									{p.comment && <span className="break-words">“{p.comment}”</span>}
									{p.answersOn?.map((a) => (
										<div key={a.on} className="mt-0.5 text-small">
											{dayWords(a.on)}: {answerWords[a.answer]} {a.comment && `“${a.comment}”`}
										</div>
									))}
								</td>
							</tr>
						))}
						{m.room && (
							<tr className="border-[#eae4d8] border-t align-top">
								<td className="px-2.5 py-[7px]">
									<Plate>{m.room.name}</Plate>{" "}
									<span className="text-quiet">
										seats {m.room.seats} · {m.room.place}
									</span>
								</td>
								{m.mine && <td className="px-2.5 py-[7px] text-quiet">answers at once</td>}
								<td className="px-2.5 py-[7px]">
									{m.calledOff ? <Tag>given back</Tag> : <Tag tone="moss">booked</Tag>}
								</td>
							</tr>
						)}
					</tbody>
				</table>
				{m.participants.length === 0 && (
					<p className="p-3 text-quiet text-small">Nobody else is invited. Change the meeting to add people.</p>
				)}
			</section>
		</>
	);
}

const answerWords: Record<Schemas["Answer"], string> = {
	accepted: "accepted",
	maybe: "maybe",
	declined: "declined",
	none: "asked again",
};

const dayWords = (on: string) => shortDay(Temporal.PlainDate.from(on)).slice(4);

const kinds: Record<Schemas["Dispatch"]["kind"], string> = { invite: "", update: "change ", calloff: "cancellation " };

const stages: Record<Schemas["Dispatch"]["stage"], string> = {
	none: "handed over",
	handed: "handed over",
	relayed: "taken by their server",
	delivered: "in the mailbox",
	seen: "opened",
};

/** How the newest message went out. */
function Reached({ p }: { p: Schemas["Participant"] }) {
	const { zone } = useSignedIn();
	const now = useNow();
	const d = p.dispatch;
	if (!d) return null;
	const at = moment(d.at, zone, now);
	if (d.channel === "inside")
		return (
			<>
				{kinds[d.kind]}in Jembro, {at}
			</>
		);
	if (d.state === "handed")
		return (
			<>
				{kinds[d.kind]}e-mail {stages[d.stage]} {at}
			</>
		);
	if (d.state === "mended")
		return (
			<>
				{kinds[d.kind]}e-mail came back; {d.detail}
			</>
		);
	if (d.state === "failed" || d.state === "open")
		return (
			<>
				{d.state === "failed" ? <Tag tone="brick">not delivered</Tag> : <Tag tone="honey">under way</Tag>}{" "}
				<span className="break-words text-small">{d.detail}</span>{" "}
				<Link to={`/dispatch?message=${d.id}`} className="whitespace-nowrap text-small underline">
					Other ways<span className="sr-only"> to {p.name}</span>
				</Link>
			</>
		);
	return (
		<>
			<Tag tone="honey">not yet handed over</Tag>{" "}
			<span className="text-small">
				{d.detail ? "The mail server does not answer; it is tried again by itself." : "on its way"}
			</span>
		</>
	);
}

function counts(m: Meeting) {
	const of = (answer: Schemas["Answer"]) => m.participants.filter((p) => p.answer === answer);
	const unreached = of("none").filter((p) => p.dispatch?.state === "failed").length;
	const parts: [number, string][] = [
		[of("accepted").length, "accepted"],
		[of("maybe").length, "maybe"],
		[of("declined").length, "declined"],
		[of("none").length - unreached, "silent"],
		[unreached, "not reached"],
	];
	return parts
		.filter(([n]) => n > 0)
		.map(([n, word]) => `${n} ${word}`)
		.join(" · ");
}
