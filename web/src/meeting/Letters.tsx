import { useId, useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { moment } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { Button, fieldLook, Label, Note, Tag } from "../ui/kit";
import { useDecideLetter, useTakeCall } from "./deeds";

type Meeting = Schemas["Meeting"];
type Letter = Schemas["LetterIn"];

/** Mails to the meeting: what waits to be decided above, what somebody just wrote below. */
export function Letters({ m, zone }: { m: Meeting; zone: string }) {
	const letters = m.letters ?? [];
	const waiting = letters.filter((l) => l.open && !m.calledOff);
	const written = letters.filter((l) => !l.open);
	if (waiting.length + written.length === 0) return null;
	return (
		<section className="mt-4">
			<h2 className="text-[17px]">{t("Written to the meeting")}</h2>
			<ul className="mt-2 grid gap-2.5">
				{waiting.map((l) => (
					<Waiting key={l.id} m={m} l={l} zone={zone} />
				))}
				{written.map((l) => (
					<li key={l.id} className="border border-rule bg-sheet px-3 py-2.5">
						<Writer l={l} zone={zone} />
						<Words l={l} />
						<OtherWays m={m} l={l} />
						{l.why && <p className="mt-1 text-quiet text-small">{t("A calendar file in it could not be read.")}</p>}
					</li>
				))}
			</ul>
		</section>
	);
}

/** An answer that does not count by itself: whose is it? */
function Waiting({ m, l, zone }: { m: Meeting; l: Letter; zone: string }) {
	const decide = useDecideLetter(m.id);
	const [whose, setWhose] = useState(l.suggested ?? "");
	const id = useId();
	return (
		<li className="border-[1.5px] border-honey border-dashed bg-sheet px-3 py-2.5">
			<Writer l={l} zone={zone} />
			<p className="mt-1">
				<b>{l.says.join("; ")}</b> <span className="text-quiet">{l.why}</span>
			</p>
			<Words l={l} />
			<OtherWays m={m} l={l} />
			{l.asks === "meaning" && <Meaning l={l} busy={decide.isPending} onDecide={decide.mutate} />}
			{l.asks === "instead" && (
				<div className="mt-2 flex flex-wrap gap-2">
					<Button look="go" busy={decide.isPending} onClick={() => decide.mutate({ letterId: l.id, invite: true })}>
						{t("Invite %s instead", l.instead)}
					</Button>
					<Button busy={decide.isPending} onClick={() => decide.mutate({ letterId: l.id })}>
						{t("Leave it")}
					</Button>
				</div>
			)}
			<div className={l.asks === "whose" ? "mt-2 flex flex-wrap items-end gap-2" : "hidden"}>
				<div>
					<Label htmlFor={id}>{t("Whose answer is it?")}</Label>
					<select id={id} value={whose} onChange={(e) => setWhose(e.target.value)} className={fieldLook()}>
						<option value="">{t("Choose somebody")}</option>
						{m.participants.map((p) => (
							<option key={p.id} value={p.id}>
								{p.name === p.email ? p.email : `${p.name}, ${p.email}`}
							</option>
						))}
					</select>
				</div>
				<Button
					look="go"
					busy={decide.isPending}
					disabled={whose === ""}
					onClick={() => decide.mutate({ letterId: l.id, countFor: whose })}
				>
					{t("Count it")}
				</Button>
				<Button busy={decide.isPending} onClick={() => decide.mutate({ letterId: l.id })}>
					{t("Leave it")}
				</Button>
			</div>
			{decide.error && (
				<div className="mt-2">
					<Note tone="brick">{problemOf(decide.error).errors?.[0]?.detail ?? problemOf(decide.error).detail}</Note>
				</div>
			)}
		</li>
	);
}

type MeaningProps = {
	l: Letter;
	busy: boolean;
	onDecide: (how: Schemas["DecideLetter"] & { letterId: string }) => void;
};

/** Plain words of somebody invited: what do they mean? */
function Meaning({ l, busy, onDecide }: MeaningProps) {
	const means = (answer: "accepted" | "maybe" | "declined", label: string) => (
		<Button busy={busy} onClick={() => onDecide({ letterId: l.id, countFor: l.suggested, answer })}>
			{label}
		</Button>
	);
	return (
		<div className="mt-2 flex flex-wrap gap-2">
			{means("accepted", t("It is a yes"))}
			{means("maybe", t("A maybe"))}
			{means("declined", t("A no"))}
			<Button busy={busy} onClick={() => onDecide({ letterId: l.id })}>
				{t("Neither")}
			</Button>
		</div>
	);
}

/** A mail that holds another way into a call: people would end up in two places. */
function OtherWays({ m, l }: { m: Meeting; l: Letter }) {
	const take = useTakeCall(m.id);
	const [way] = l.ways;
	if (!way || !m.mine || m.calledOff) return null;
	return (
		<p className="mt-1 text-honey text-small">
			{t("It holds another way into a call than the meeting:")} <span className="break-all">{way}</span>{" "}
			<Button look="bare" className="text-small" busy={take.isPending} onClick={() => take.mutate(way)}>
				{t("Use this one for the meeting")}
			</Button>
			{take.error && <span className="block text-brick">{problemOf(take.error).detail}</span>}
		</p>
	);
}

function Writer({ l, zone }: { l: Letter; zone: string }) {
	const now = useNow();
	return (
		<p className="break-words">
			<b className="font-[650]">{l.name || l.email || t("Nobody named")}</b>{" "}
			<span className="text-quiet">
				{l.name && `${l.email} · `}
				{moment(l.at, zone, now)}
			</span>{" "}
			{l.signedBy && <Tag tone="moss">{t("signed by %s", l.signedBy)}</Tag>}
		</p>
	);
}

function Words({ l }: { l: Letter }) {
	return (
		<>
			{l.subject && <p className="mt-1 break-words text-small">{l.subject}</p>}
			{l.words && <p className="mt-1 max-w-[640px] whitespace-pre-line break-words">{l.words}</p>}
		</>
	);
}
