import { memo, useEffect, useRef } from "react";
import { useSearchParams } from "react-router";
import { ProblemError, problemOf } from "../api/client";
import { useSignedIn } from "../api/me";
import { inZone, longDay } from "../time/format";
import { useCopy } from "../ui/copy";
import { Button, Note } from "../ui/kit";
import { useAttachLink, useDropLink } from "./deeds";
import { PartRow } from "./PartRow";
import type { Part } from "./part";
import { settled } from "./when";

/** The one link of the meeting, made before anything is sent. */
export const LinkPart = memo(function LinkPart({ sheet, draft, change, store, dates }: Part) {
	const { providers } = useSignedIn();
	const [params, setParams] = useSearchParams();
	const attach = useAttachLink(sheet.id);
	const begun = useRef(false);
	const make = async (provider: string) => {
		if (!(await store.save())) return;
		attach.mutate(provider, {
			onError: (error) => {
				// The sheet is saved: the browser can go to the provider and come back to it.
				if (error instanceof ProblemError && error.kind === "sign-in-at-provider")
					window.location.assign(`/api/connect/${provider}/start?sheet=${sheet.id}`);
			},
		});
	};
	const back = params.get("attach");
	// biome-ignore lint/correctness/useExhaustiveDependencies: once, on the way back from the provider
	useEffect(() => {
		if (!back || begun.current) return;
		begun.current = true;
		setParams({}, { replace: true });
		attach.mutate(back);
	}, [back]);
	const problem = attach.error && problemOf(attach.error);
	const leaving = attach.error instanceof ProblemError && attach.error.kind === "sign-in-at-provider";
	return (
		<PartRow name="Link">
			{sheet.card ? (
				<Card sheet={sheet} minutes={settled(draft)?.minutes ?? 0} dates={dates} />
			) : (
				<div className="flex flex-wrap items-center gap-2">
					{providers.map((p) => (
						<Button key={p.key} busy={attach.isPending || leaving} disabled={draft.noLink} onClick={() => make(p.key)}>
							Make a link at {p.name}
						</Button>
					))}
					<label className="flex items-center gap-1.5 text-quiet text-small">
						<input type="checkbox" checked={draft.noLink} onChange={(e) => change({ noLink: e.target.checked })} />
						no link needed
					</label>
				</div>
			)}
			{params.get("refused") && !sheet.card && (
				<div className="mt-2">
					<Note>
						<b>Ostrel was not allowed to make links for you.</b> The sheet is kept. Make a link later, or send without
						one.
					</Note>
				</div>
			)}
			{((problem && !leaving) || params.get("away")) && !sheet.card && (
				<div className="mt-2">
					<Note>
						<b>{problem && problem.type !== "/problems/provider-away" ? problem.detail : "Ostrel does not answer."}</b>{" "}
						The sheet is kept.{" "}
						<Button look="bare" busy={attach.isPending} onClick={() => make(providers[0]?.key ?? "")}>
							Try again
						</Button>{" "}
						or{" "}
						<Button look="bare" onClick={() => change({ noLink: true })}>
							go on without a link
						</Button>{" "}
						and add it later.
					</Note>
				</div>
			)}
		</PartRow>
	);
});

function Card({ sheet, minutes, dates }: { sheet: Part["sheet"]; minutes: number; dates: Part["dates"] }) {
	const copy = useCopy();
	const drop = useDropLink(sheet.id);
	const card = sheet.card;
	if (!card) return null;
	const words = [card.shortUrl, card.number, card.passcode].filter(Boolean).join(" · ");
	const tooLong = card.limitMinutes !== undefined && minutes > card.limitMinutes;
	return (
		<div className="rounded-r-[4px] border border-rule border-l-4 border-l-fig bg-paper px-2.5 py-[7px] text-[13px]">
			<div className="flex justify-between gap-2">
				<span>
					<b className="font-[650]">{card.name}</b> <span className="text-quiet">· fresh link</span>
				</span>
				<span>
					<Button look="bare" onClick={() => copy(card.text, "Join card")}>
						Copy card
					</Button>{" "}
					<Button look="bare" busy={drop.isPending} onClick={() => drop.mutate(undefined)}>
						Take off
					</Button>
				</span>
			</div>
			<div className="mt-0.5 break-words">{words}</div>
			<div className="text-quiet text-small">
				{dates &&
					(dates.open ? "Same link on all dates · " : dates.count > 1 && `Same link on all ${dates.count} dates · `)}
				{card.door && `${card.door} at the door`}
				{dates?.linkUntil && (
					<span className="block text-honey">
						{card.name} keeps a link until {longDay(inZone(dates.linkUntil, sheet.draft.zone).toPlainDate())}{" "}
						{inZone(dates.linkUntil, sheet.draft.zone).year}; the series goes on after that.
					</span>
				)}
				{tooLong && (
					<span className="block text-honey">
						The plan at {card.name} ends a call after {card.limitMinutes} minutes; this meeting runs {minutes}.
					</span>
				)}
			</div>
			{drop.error && <p className="text-brick text-small">{problemOf(drop.error).detail}</p>}
		</div>
	);
}
