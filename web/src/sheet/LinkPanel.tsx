import { memo, useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { type Term, t, term } from "../tongue/tongue";
import { useCopy } from "../ui/copy";
import { CardLines } from "../ui/JoinCard";
import { Button, FieldFault, fieldLook, Note, Skeleton, Tag } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { useCalls, useCardFor, useChoose, useDropLink, useReadCard } from "./calls";
import { DoorPart } from "./DoorPart";
import type { Part } from "./part";

type Option = Schemas["CallOption"];

/** Where the call of the sheet is: fresh at a provider, in a standing room, somebody else's, or nowhere. */
export const LinkPanel = memo(function LinkPanel({ onClose, ...part }: Part & { onClose: () => void }) {
	const { sheet, draft, store } = part;
	const calls = useCalls(sheet);
	const choose = useChoose(sheet.id, store);
	const drop = useDropLink(sheet.id);
	const given = sheet.card?.kind === "given";
	const [pasting, setPasting] = useState(false);
	const busy = choose.busy || drop.isPending;
	return (
		<section
			aria-label={t("Where the call is")}
			className="mb-3 grid grid-cols-1 gap-x-4 gap-y-3 rounded-[4px] border border-rule bg-paper p-3 xl:grid-cols-[minmax(0,1fr)_300px]"
		>
			<div className="min-w-0">
				<div className="mb-1.5 flex flex-wrap items-baseline gap-x-3">
					<h2 className="text-[17px]">{t("Where the call is")}</h2>
					<span className="text-quiet text-small">
						{t("one way in for all dates; it stays when time or repetition change")}
					</span>
					<Button look="bare" className="ml-auto text-small" onClick={onClose}>
						{t("Done")}
					</Button>
				</div>
				{calls.isPending && <Skeleton lines={4} />}
				{calls.error && <TryAgain error={calls.error} again={() => calls.refetch()} />}
				{calls.data && (
					<div
						role="radiogroup"
						aria-label={t("Where the call is")}
						aria-busy={busy}
						className="rounded-[4px] border border-rule bg-sheet"
						onKeyDown={step}
					>
						{calls.data.items.map((o) => (
							<Row
								key={o.provider ?? o.standing}
								on={o.on && !pasting}
								name={o.name}
								onTake={() => {
									if (busy) return;
									setPasting(false);
									void choose.make(o.provider ? { provider: o.provider } : { standing: o.standing });
								}}
								mark={<Mark option={o} follows={!!sheet.card?.follows} />}
							>
								<About option={o} />
							</Row>
						))}
						<Row on={given || pasting} name={t("Somebody else’s")} onTake={() => setPasting(true)}>
							<Pasted busy={choose.busy} onPaste={() => setPasting(true)} onTake={(text) => choose.make({ text })} />
						</Row>
						<Row
							on={draft.noLink && !pasting}
							name={t("No call")}
							onTake={() => {
								if (busy) return;
								setPasting(false);
								drop.mutate(true);
							}}
						>
							<span className="text-quiet">{t("everybody comes to the room")}</span>
						</Row>
					</div>
				)}
				{choose.problem && (
					<div className="mt-2">
						<Note>
							<b>{choose.problem.detail}</b>{" "}
							{sheet.card?.follows
								? t("What was on the sheet is still there; the link follows by itself.")
								: t("What was on the sheet is still there.")}
						</Note>
					</div>
				)}
				{calls.data?.door && <DoorPart part={part} choices={calls.data.door} stays={calls.data.passcodeStays} />}
			</div>
			<WhatTheySee {...part} />
		</section>
	);
});

type RowProps = { on: boolean; name: string; onTake: () => void; mark?: React.ReactNode; children: React.ReactNode };

const Row = ({ on, name, onTake, mark, children }: RowProps) => (
	<div
		className={`grid grid-cols-[16px_104px_minmax(0,1fr)_auto] items-start gap-x-2.5 border-rule border-t px-2.5 py-2 text-[13px] first-of-type:border-t-0 ${on ? "bg-fig-wash" : ""}`}
	>
		{/* Arrows go from one to the next without taking it: each that is taken is made at its provider. */}
		{/* biome-ignore lint/a11y/useSemanticElements: a native radio is taken as soon as an arrow reaches it */}
		<button
			type="button"
			role="radio"
			aria-checked={on}
			aria-label={name}
			className={`mt-[3px] size-[15px] rounded-full border-[1.5px] bg-white ${on ? "border-[5px] border-fig" : "border-[#8b8f86] hover:border-ink"}`}
			onClick={onTake}
		/>
		<button type="button" tabIndex={-1} className="text-left font-[650]" onClick={onTake}>
			{name}
		</button>
		<div className="min-w-0">{children}</div>
		<span>{mark}</span>
	</div>
);

/** Arrow keys go from one place to the next. */
function step(e: React.KeyboardEvent<HTMLElement>) {
	const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
	const all = [...e.currentTarget.querySelectorAll<HTMLElement>("[role=radio]")];
	const at = all.indexOf(document.activeElement as HTMLElement);
	if (!by || at < 0) return;
	e.preventDefault();
	e.stopPropagation();
	all[(at + by + all.length) % all.length]?.focus();
}

function About({ option: o }: { option: Option }) {
	const [first, ...rest] = o.about;
	return (
		<>
			<span>
				{first} {o.url && <span className="break-all text-quiet">{o.url}</span>}
			</span>
			{rest.length > 0 && <span className="block text-quiet text-small">{rest.join(" · ")}</span>}
			{o.warnings.map((w) => (
				<span key={w} className="block text-honey text-small">
					{w}
				</span>
			))}
		</>
	);
}

const marks: Record<Option["state"], Term> = {
	signedIn: term("signed in"),
	signIn: term("sign in once"),
	house: term("house account"),
	standing: term("standing"),
};

const Mark = ({ option: o, follows }: { option: Option; follows: boolean }) =>
	o.on ? (
		<span className="text-fig text-small">{follows ? t("follows") : t("on the sheet")}</span>
	) : (
		<Tag tone={o.state === "signIn" ? "honey" : "slate"}>{t(marks[o.state])}</Tag>
	);

type PastedProps = { busy: boolean; onPaste: () => void; onTake: (text: string) => void };

/** The invitation that somebody else wrote, and what is read out of it. */
function Pasted({ busy, onPaste, onTake }: PastedProps) {
	const [text, setText] = useState("");
	const read = useReadCard(text);
	const found = text.trim() !== "" ? read.data : undefined;
	const nothing = found && !found.card && !read.isFetching;
	return (
		<>
			<textarea
				aria-label={t("The invitation or the link that you were given")}
				rows={2}
				placeholder={t("Paste the invitation or the link that you were given")}
				className={`${fieldLook(!!nothing)} block text-[13px] placeholder:text-quiet`}
				value={text}
				onFocus={onPaste}
				onChange={(e) => setText(e.target.value)}
			/>
			{!found && (
				<span className="text-quiet text-small">
					{t("link, number, passcode and phone numbers are read out of it")}
				</span>
			)}
			<FieldFault
				id="fault-pasted"
				sentence={
					nothing ? t("There is no way into a call in this text. Paste all of it, or the link alone.") : undefined
				}
			/>
			{found?.card && (
				<div className="mt-1 rounded-r-[4px] border-fig border-l-4 bg-paper px-2.5 py-1">
					<CardLines card={found.card} />
					{found.others.length > 0 && (
						<p className="mb-1 text-small">
							<span className="text-quiet">{t("It holds further ways in. Is it one of these?")}</span>
							{found.others.map((o) => (
								<Button key={o} look="bare" className="block break-all text-small" onClick={() => onTake(o)}>
									{o}
								</Button>
							))}
						</p>
					)}
					<Button busy={busy} onClick={() => onTake(text)}>
						{t("Take this call")}
					</Button>
				</div>
			)}
		</>
	);
}

/** The card as one of the people on the sheet reads it. */
function WhatTheySee({ sheet, draft }: Part) {
	const copy = useCopy();
	const [reader, setReader] = useState(-1);
	const at = reader < draft.people.length ? reader : -1;
	const asked = useCardFor(sheet, at);
	const card = at >= 0 ? asked.data : sheet.card;
	return (
		<aside aria-label={t("What they see")} className="min-w-0">
			<h2 className="text-[15px]">{t("What they see")}</h2>
			<label className="text-quiet text-small">
				{t("as read by")}{" "}
				<select
					className="max-w-[200px] rounded-[3px] border border-rule bg-white px-1 py-px text-ink"
					value={at}
					onChange={(e) => setReader(Number(e.target.value))}
				>
					<option value={-1}>{t("you, the organiser")}</option>
					{draft.people.map((p, i) => (
						<option key={p.email} value={i}>
							{p.name || p.email}
						</option>
					))}
				</select>
			</label>
			{card ? (
				<div className="mt-1.5 rounded-r-[4px] border border-rule border-l-4 border-l-fig bg-sheet px-3.5 py-2">
					<h3 className="font-display font-[650] text-[15px]">{card.heading}</h3>
					<CardLines card={card} />
					{!card.follows && (
						<div className="flex flex-wrap gap-2 pb-1">
							<Button onClick={() => copy(card.text, t("Join card"))}>{t("Copy as text")}</Button>
							{card.url && <Button onClick={() => copy(card.url, t("Link"))}>{t("Copy link")}</Button>}
						</div>
					)}
				</div>
			) : (
				<p className="mt-1.5 rounded-[4px] border-[1.5px] border-rule border-dashed p-3 text-quiet text-small">
					{asked.error ? problemOf(asked.error).detail : t("Nothing yet: choose where the call is.")}
				</p>
			)}
			<p className="mt-1.5 text-quiet text-small">
				{t("The same stands in the invitation, in the calendar entry and on the guest’s page.")}
			</p>
		</aside>
	);
}
