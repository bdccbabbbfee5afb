import { useId, useState } from "react";
import { problemOf } from "../api/client";
import { useChangeMeeting } from "../meeting/deeds";
import { many, t } from "../tongue/tongue";
import { Button, fieldLook, Label, Note, Plate } from "../ui/kit";
import { useSay } from "../ui/notice";
import { type Proposal, useDecideProposal } from "./deeds";

type Props = { meetingId: string; p: Proposal };

/** Another time that somebody proposes: who can, where it can be, and what to do about it. */
export function ProposalCard({ meetingId, p }: Props) {
	const decide = useDecideProposal(meetingId, p.id);
	const change = useChangeMeeting(meetingId);
	const say = useSay();
	const [keeping, setKeeping] = useState(false);
	const [word, setWord] = useState("");
	const field = useId();
	const error = decide.error ?? change.error;
	const fault = error && problemOf(error);
	const move = (roomId?: string) =>
		decide.mutate({ move: true, roomId }, { onSuccess: () => say(t("Moved, everybody is told")) });
	const keep = () => decide.mutate({ move: false, word }, { onSuccess: () => say(t("%s is told", p.name)) });
	const there = !p.room || p.roomClear;
	return (
		<li className="border-[1.5px] border-honey border-dashed bg-sheet px-3 py-2.5">
			<p className="break-words">
				<b className="font-[650]">{p.words}</b> <span className="text-quiet">{t("proposed by %s", p.name)}</span>
			</p>
			{p.comment && <p className="mt-0.5 whitespace-pre-line break-words">“{p.comment}”</p>}
			<p className="mt-1 break-words text-small">
				{p.troubles.length === 0
					? t("Everybody whose time can be seen is clear then.")
					: p.troubles.map((x) => `${x.name} ${x.short}${x.needed ? "" : ` (${t("optional")})`}`).join("; ")}
				{p.unseen > 0 && (
					<span className="text-quiet">
						{" "}
						{many(p.unseen, "1 person’s time cannot be seen from here.", "%d people’s time cannot be seen from here.")}
					</span>
				)}
			</p>
			{p.room && (
				<p className="mt-0.5 text-small">
					<Plate small>{p.room}</Plate>{" "}
					{p.roomClear
						? t("is clear then")
						: p.rooms.length > 0
							? t("cannot be had then")
							: t("cannot be had then; no other room that would do is clear either")}
				</p>
			)}
			<div className="mt-2 flex flex-wrap items-center gap-1.5">
				{there && (
					<Button look="go" busy={decide.isPending} onClick={() => move()}>
						{t("Move it there")}
					</Button>
				)}
				{!there &&
					p.rooms.map((r, i) => (
						<Button key={r.id} look={i === 0 ? "go" : "plain"} busy={decide.isPending} onClick={() => move(r.id)}>
							{t("Move it there, in %s", r.name)}
						</Button>
					))}
				<Button disabled={decide.isPending} onClick={keep}>
					{t("Keep the time")}
				</Button>
				{!keeping && (
					<Button look="bare" className="text-small" onClick={() => setKeeping(true)}>
						{t("with a word…")}
					</Button>
				)}
				<Button
					look="bare"
					className="text-small"
					busy={change.isPending}
					onClick={() => change.mutate(p.on ? { at: p.on, one: true } : {})}
				>
					{t("Take an opening instead…")}
				</Button>
			</div>
			<div className="mt-1.5 max-w-[420px]" hidden={!keeping}>
				<Label htmlFor={field}>{t("A word to %s (optional)", p.name)}</Label>
				<input
					id={field}
					className={fieldLook()}
					value={word}
					maxLength={1000}
					onChange={(e) => setWord(e.target.value)}
				/>
			</div>
			{fault && (
				<div className="mt-2">
					<Note tone="brick">{fault.errors?.[0]?.detail ?? fault.detail}</Note>
				</div>
			)}
		</li>
	);
}
