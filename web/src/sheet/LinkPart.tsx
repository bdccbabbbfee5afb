import { memo, useEffect, useRef } from "react";
import { useSearchParams } from "react-router";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { t } from "../tongue/tongue";
import { useCopy } from "../ui/copy";
import { kinds } from "../ui/JoinCard";
import { Button, Note } from "../ui/kit";
import { useSay } from "../ui/notice";
import { type Choice, useChoose, useDropLink, useSplit } from "./calls";
import { PartRow } from "./PartRow";
import type { Part } from "./part";

type Props = Part & { choosing: boolean; onChoose: (open: boolean) => void };

/** The one way into the call of the meeting, settled before anything is sent. */
export const LinkPart = memo(function LinkPart({ choosing, onChoose, ...part }: Props) {
	const { sheet, draft, change, store, dates } = part;
	const { providers } = useSignedIn();
	const [params, setParams] = useSearchParams();
	const choose = useChoose(sheet.id, store);
	const begun = useRef(false);
	const back = params.get("attach");
	// biome-ignore lint/correctness/useExhaustiveDependencies: once, on the way back from the provider
	useEffect(() => {
		if (!back || begun.current) return;
		begun.current = true;
		setParams({}, { replace: true });
		void choose.make({ provider: back });
	}, [back]);
	const refused = params.get("refused");
	const away = params.get("away");
	const named = (key: string | null) => providers.find((p) => p.key === key)?.name ?? t("The provider");
	const first = providers.find((p) => p.fresh);
	return (
		<PartRow name="Link">
			{sheet.card ? (
				<OnSheet
					part={part}
					card={sheet.card}
					choosing={choosing}
					onChoose={onChoose}
					make={choose.make}
					dates={dates}
				/>
			) : (
				<div className="flex flex-wrap items-center gap-2">
					{first && (
						<Button busy={choose.busy} disabled={draft.noLink} onClick={() => choose.make({ provider: first.key })}>
							{t("Make a link at %s", first.name)}
						</Button>
					)}
					<Button aria-expanded={choosing} onClick={() => onChoose(!choosing)}>
						{t("Other calls")}
					</Button>
					<label className="flex items-center gap-1.5 text-quiet text-small">
						<input type="checkbox" checked={draft.noLink} onChange={(e) => change({ noLink: e.target.checked })} />
						{t("no link needed")}
					</label>
				</div>
			)}
			{refused && !sheet.card && (
				<div className="mt-2">
					<Note>
						<b>{t("%s was not allowed to make links for you.", named(refused))}</b>{" "}
						{t("The sheet is kept. Make a link later, take another call, or send without one.")}
					</Note>
				</div>
			)}
			{away && !sheet.card && (
				<div className="mt-2">
					<Note>
						<b>{t("%s does not answer.", named(away))}</b> {t("The sheet is kept.")}{" "}
						<Button look="bare" onClick={() => choose.make({ provider: away })}>
							{t("Try again")}
						</Button>{" "}
						{t("or")}{" "}
						<Button look="bare" onClick={() => onChoose(true)}>
							{t("take another call")}
						</Button>
					</Note>
				</div>
			)}
			{choose.problem && (
				<div className="mt-2">
					<Note>
						<b>{choose.problem.detail}</b>{" "}
						{sheet.card?.follows
							? t("The sheet is kept, and the link follows as soon as %s answers.", sheet.card.name)
							: t("The sheet is kept.")}{" "}
						<Button look="bare" busy={choose.busy} onClick={choose.again}>
							{t("Try again")}
						</Button>{" "}
						{t("or")}{" "}
						<Button look="bare" onClick={() => onChoose(true)}>
							{t("take another call")}
						</Button>
					</Note>
				</div>
			)}
		</PartRow>
	);
});

type OnSheetProps = {
	part: Part;
	card: Schemas["Card"];
	choosing: boolean;
	onChoose: (open: boolean) => void;
	make: (choice: Choice) => void;
	dates: Part["dates"];
};

/** The call on the sheet, for what it is too small, and what else is there at the time. */
function OnSheet({ part, card, choosing, onChoose, make, dates }: OnSheetProps) {
	const { sheet } = part;
	const copy = useCopy();
	const drop = useDropLink(sheet.id);
	const words = [
		card.shortUrl,
		...[card.number, card.passcode, card.near[0]?.words].map((w) => w?.replaceAll(" ", "\u00a0")),
	]
		.filter(Boolean)
		.join(" · ");
	return (
		<div className="rounded-r-[4px] border border-rule border-l-4 border-l-fig bg-paper px-2.5 py-[7px] text-[13px]">
			<div className="flex flex-wrap justify-between gap-x-2">
				<span>
					<b className="font-[650]">{card.name || t("Link of somebody else")}</b>
					{card.name && <span className="text-quiet"> · {t(kinds[card.kind])}</span>}
				</span>
				<span className="-ml-1 basis-full">
					<Button look="bare" aria-expanded={choosing} onClick={() => onChoose(!choosing)}>
						{t("Other calls")}
					</Button>{" "}
					<Button look="bare" busy={drop.isPending} onClick={() => drop.mutate(false)}>
						{t("Take off")}
					</Button>{" "}
					{/* The last one: the others stay where they are when the link comes. */}
					{!card.follows && (
						<Button look="bare" onClick={() => copy(card.text, t("Join card"))}>
							{t("Copy card")}
						</Button>
					)}
				</span>
			</div>
			{card.follows ? (
				<div className="mt-0.5 text-honey">
					{t("The link follows as soon as %s answers. Sent before that, everybody gets one update with it.", card.name)}
				</div>
			) : (
				<div className="mt-0.5 break-words">{words}</div>
			)}
			<div className="text-quiet text-small">{[dates && onAll(dates), card.door].filter(Boolean).join(" · ")}</div>
			{sheet.link.over.map((o) => (
				<p key={o.words} className="text-honey text-small">
					{o.words}{" "}
					{o.mends.map((m) => (
						<Mend key={m.words} mend={m} part={part} make={make} />
					))}
				</p>
			))}
			{sheet.link.overlaps.map((words) => (
				<p key={words} className="text-honey text-small">
					{words}
				</p>
			))}
			{drop.error && <p className="text-brick text-small">{problemOf(drop.error).detail}</p>}
		</div>
	);
}

const onAll = (dates: NonNullable<Part["dates"]>) =>
	dates.open ? t("Same link on all dates") : dates.count > 1 && t("Same link on all %s dates", dates.count);

type MendProps = { mend: Schemas["LinkMend"]; part: Part; make: (choice: Choice) => void };

/** One press that mends a plan that is too small. */
function Mend({ mend: m, part: { sheet, draft, change, store }, make }: MendProps) {
	const say = useSay();
	const split = useSplit(sheet.id);
	const mend = async () => {
		if (m.parts) {
			if (await store.save())
				split.mutate(m.parts, { onSuccess: () => say(t("The other parts are sheets of their own, under Drafts")) });
		} else if (m.provider) make({ provider: m.provider });
		else if (m.end) change({ end: m.end });
		else if (draft.repeat && m.until) change({ repeat: { ...draft.repeat, ends: "on", until: m.until } });
		else if (draft.repeat && m.count) change({ repeat: { ...draft.repeat, ends: "after", count: m.count } });
	};
	return (
		<Button look="bare" className="text-small" busy={split.isPending} onClick={() => void mend()}>
			{m.words}
		</Button>
	);
}
