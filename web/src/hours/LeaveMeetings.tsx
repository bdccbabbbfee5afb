import { useState } from "react";
import { faultIn, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { inZone, shortDay, times } from "../time/format";
import { many, t } from "../tongue/tongue";
import { Button, fieldLook, Label, Note, Skeleton, Tag } from "../ui/kit";
import { useSay } from "../ui/notice";
import { Question } from "../ui/Question";
import { Colleague, type Named } from "./Colleague";
import { useLeave, useSettleLeave } from "./deeds";

type Doing = "handOver" | "decline" | "callOff";
type Choice = { do?: Doing; to?: Named };

/** The meetings that lie in a leave, with what can be done about each or all of them. */
export function LeaveMeetings({ id, onClose }: { id: string; onClose: () => void }) {
	const leave = useLeave(id);
	const settle = useSettleLeave();
	const say = useSay();
	const [chosen, setChosen] = useState<Record<string, Choice>>({});
	const [word, setWord] = useState("");
	const items = leave.data?.items ?? [];
	const set = (meetingId: string, choice: Choice) => setChosen((c) => ({ ...c, [meetingId]: choice }));
	const all = (pick: (m: Schemas["LeaveMeeting"]) => Doing | undefined) =>
		setChosen((c) =>
			Object.fromEntries(items.map((m) => [m.meetingId, { ...c[m.meetingId], do: pick(m) ?? c[m.meetingId]?.do }])),
		);
	const doing = items.flatMap((m) => {
		const c = chosen[m.meetingId];
		return c?.do ? [{ meetingId: m.meetingId, do: c.do, ...(c.do === "handOver" && c.to && { to: c.to.id }) }] : [];
	});
	const problem = settle.error && problemOf(settle.error);
	const faultOf = (meetingId: string) => {
		const at = settle.variables?.items.findIndex((i) => i.meetingId === meetingId) ?? -1;
		return at < 0 ? undefined : faultIn(problem, `items.${at}`);
	};
	const some = (mine: boolean) => items.some((m) => m.mine === mine);
	return (
		<Question title={t("Meetings in your leave")} onClose={onClose} wide>
			{leave.isPending && <Skeleton lines={3} />}
			{leave.error && <Note tone="brick">{problemOf(leave.error).detail}</Note>}
			{leave.data && items.length === 0 && (
				<p className="my-2">{t("Nothing lies in it any more. Everybody who had to hear of it has.")}</p>
			)}
			{items.length > 0 && (
				<>
					<div className="mt-1 flex flex-wrap items-center gap-x-2 text-small">
						<span className="text-quiet">{t("For all:")}</span>
						{some(false) && (
							<Button look="bare" onClick={() => all((m) => (m.mine ? undefined : "decline"))}>
								{t("decline what I am invited to")}
							</Button>
						)}
						{some(true) && (
							<Button look="bare" onClick={() => all((m) => (m.mine ? "callOff" : undefined))}>
								{t("call off what I organise")}
							</Button>
						)}
					</div>
					<ul className="mt-1 border border-rule">
						{items.map((m) => (
							<Item
								key={m.meetingId}
								meeting={m}
								choice={chosen[m.meetingId] ?? {}}
								fault={faultOf(m.meetingId)}
								set={(c) => set(m.meetingId, c)}
							/>
						))}
					</ul>
					<div className="mt-2.5 max-w-[560px]">
						<Label htmlFor="leave-word">{t("A word to those who hear of it")}</Label>
						<input id="leave-word" className={fieldLook()} value={word} onChange={(e) => setWord(e.target.value)} />
					</div>
				</>
			)}
			{problem && !problem.errors && (
				<div className="mt-2">
					<Note tone="brick">{problem.detail}</Note>
				</div>
			)}
			<div className="mt-3 flex items-center gap-2">
				{items.length > 0 && (
					<Button
						look="go"
						busy={settle.isPending}
						disabled={doing.length === 0}
						onClick={() =>
							settle.mutate(
								{ id, items: doing, word },
								{
									onSuccess: () => say(many(doing.length, "One meeting is settled", "%d meetings are settled")),
								},
							)
						}
					>
						{doing.length === 0 ? t("Settle them") : many(doing.length, "Settle one", "Settle %d")}
					</Button>
				)}
				<Button onClick={onClose}>{items.length > 0 ? t("Later") : t("Close")}</Button>
				{items.length > 0 && (
					<span className="text-quiet text-small">
						{t("What is not chosen stays as it is. Every organiser hears once.")}
					</span>
				)}
			</div>
		</Question>
	);
}

function Item(props: { meeting: Schemas["LeaveMeeting"]; choice: Choice; fault?: string; set: (c: Choice) => void }) {
	const { meeting: m, choice, fault, set } = props;
	const zone = useSignedIn().zone;
	const first = m.dates[0];
	const ways: [Doing, string][] = m.mine
		? [
				["handOver", m.repeats ? t("Hand over all of it") : t("Hand over")],
				["callOff", m.repeats && !m.whole ? t("Call off these dates") : t("Call off")],
			]
		: [["decline", t("Decline")]];
	return (
		<li
			aria-label={m.title}
			className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border-rule border-b px-2.5 py-2 last:border-b-0"
		>
			<div className="min-w-[220px] flex-1">
				<b className="font-[650]">{m.title}</b>{" "}
				{m.mine ? <Tag tone="moss">{t("yours")}</Tag> : <span className="text-quiet text-small">{m.organiser}</span>}
				<div className="text-quiet text-small">
					{first && `${shortDay(inZone(first.start, zone).toPlainDate())}, ${times(first.start, first.end, zone)}`}
					{m.dates.length > 1 && ` ${many(m.dates.length - 1, "and 1 more date", "and %d more dates")}`}
				</div>
				{fault && <p className="text-brick text-small">{fault}</p>}
			</div>
			<div className="flex flex-wrap items-center gap-1">
				{ways.map(([way, words]) => (
					<button
						key={way}
						type="button"
						aria-pressed={choice.do === way}
						className={`rounded-[4px] border px-[9px] py-[4px] ${choice.do === way ? "border-ink bg-ink text-white" : "border-rule bg-sheet hover:border-ink"}`}
						onClick={() => set({ ...choice, do: choice.do === way ? undefined : way })}
					>
						{words}
					</button>
				))}
			</div>
			{choice.do === "handOver" && (
				<div className="flex w-full items-center justify-end gap-2">
					<span className="text-quiet text-small">{t("to")}</span>
					<Colleague label={t("Who takes %s over", m.title)} chosen={choice.to} set={(to) => set({ ...choice, to })} />
				</div>
			)}
		</li>
	);
}
