import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { problemOf } from "../api/client";
import { useChangeMeeting } from "../meeting/deeds";
import { useProposals } from "../proposals/deeds";
import { ProposalCard } from "../proposals/ProposalCard";
import { t } from "../tongue/tongue";
import { Button, fieldLook, lookOf, Skeleton } from "../ui/kit";
import { useSay } from "../ui/notice";
import { type LooseEnd, type Mend, useMend } from "./deeds";

const edges = ["border-l-brick", "border-l-honey", "border-l-slate"];

/** One loose end, with the press that mends it. */
export function EndRow({ end: e }: { end: LooseEnd }) {
	const mending = useMend(e);
	const say = useSay();
	const press = (m: Mend, said: string) => mending.mutate(m, { onSuccess: () => say(said) });
	const busy = mending.isPending;
	const [looking, setLooking] = useState(false);
	const fault = mending.error && problemOf(mending.error);
	return (
		<li
			className={`rounded-[4px] border border-rule border-l-[5px] bg-sheet px-3.5 py-2 ${edges[e.worst] ?? edges[2]}`}
		>
			<div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
				<div className="min-w-0 flex-1 basis-[260px]">
					<b className="block break-words font-[650]">{e.words}</b>
					<span className="block break-words text-quiet text-small">{e.detail}</span>
					{e.said && <span className="line-clamp-3 break-words text-small">“{e.said}”</span>}
				</div>
				<div className="flex flex-wrap justify-end gap-1.5">
					<Ways e={e} busy={busy} press={press} looking={looking} onLook={() => setLooking(!looking)} />
				</div>
			</div>
			{looking && e.kind === "proposed" && <Proposed id={e.meetingId ?? ""} />}
			{fault && (
				<p role="alert" className="mt-1 text-brick text-small">
					{fault.errors?.[0]?.detail ?? fault.detail}
				</p>
			)}
		</li>
	);
}

/** The times proposed for a meeting, in place. */
function Proposed({ id }: { id: string }) {
	const proposals = useProposals(id, true);
	if (!proposals.data) return <Skeleton lines={2} />;
	return (
		<ul className="mt-2 grid gap-2">
			{proposals.data.items.map((p) => (
				<ProposalCard key={p.id} meetingId={id} p={p} />
			))}
		</ul>
	);
}

type WhoseProps = {
	all: { id: string; name: string }[];
	busy: boolean;
	onCount: (id: string, name: string) => void;
};

/** Whose answer it is, where nobody can tell by themselves. */
function Whose({ all, busy, onCount }: WhoseProps) {
	const [id, setID] = useState("");
	const chosen = all.find((i) => i.id === id);
	return (
		<span className="flex gap-1.5">
			<select
				aria-label={t("Whose answer is it?")}
				value={id}
				onChange={(e) => setID(e.target.value)}
				className={`${fieldLook()} max-w-[200px]`}
			>
				<option value="">{t("Whose is it?")}</option>
				{all.map((i) => (
					<option key={i.id} value={i.id}>
						{i.name}
					</option>
				))}
			</select>
			<Button look="go" busy={busy} disabled={!chosen} onClick={() => chosen && onCount(chosen.id, chosen.name)}>
				{t("Count it")}
			</Button>
		</span>
	);
}

type WaysProps = {
	e: LooseEnd;
	busy: boolean;
	press: (m: Mend, said: string) => void;
	looking: boolean;
	onLook: () => void;
};

function Ways({ e, busy, press, looking, onLook }: WaysProps): ReactNode {
	const change = useChangeMeeting(e.meetingId ?? "");
	const go = (m: Mend, said: string, label: string) => (
		<Button key={label} look="go" busy={busy} onClick={() => press(m, said)}>
			{label}
		</Button>
	);
	const plain = (m: Mend, said: string, label: string) => (
		<Button key={label} disabled={busy} onClick={() => press(m, said)}>
			{label}
		</Button>
	);
	const letBe = plain({ what: "letBe" }, t("Let be"), t("Let it be"));
	const sheet = (label: string) => (
		<Button busy={change.isPending} onClick={() => change.mutate(e.on ? { at: e.on, one: e.kind !== "call" } : {})}>
			{label}
		</Button>
	);
	const look = (
		<Link to={`/meeting/${e.meetingId}?date=${e.on}`} className={`${lookOf("plain")} text-ink`}>
			{t("Look")}
		</Link>
	);
	switch (e.kind) {
		case "noRoom":
			return (
				<>
					{e.rooms
						.slice(0, 1)
						.map((r) =>
							go({ what: "room", roomId: r.id }, t("%s booked, everybody is told", r.name), t("Take %s", r.name)),
						)}
					{e.rooms
						.slice(1, 2)
						.map((r) =>
							plain({ what: "room", roomId: r.id }, t("%s booked, everybody is told", r.name), t("Take %s", r.name)),
						)}
					{sheet(t("Find a room"))}
				</>
			);
		case "notReached":
		case "underway":
			return (
				<>
					{e.address &&
						go(
							{ what: "again", address: e.address },
							t("Sent to %s", e.address),
							t("Use %s@…", e.address.split("@")[0]),
						)}
					{e.kind === "notReached" && plain({ what: "told" }, t("Marked as told"), t("Mark as told"))}
					<Link to={`/dispatch?message=${e.dispatchId}`} className={`${lookOf("plain")} text-ink`}>
						{t("Other ways")}
					</Link>
				</>
			);
		case "unsent":
			return (
				<>
					<Link to={`/sheet/${e.sheetId}`} className={lookOf("go")}>
						{t("Go on with it")}
					</Link>
					{letBe}
				</>
			);
		case "declined":
			return (
				<>
					{sheet(t("Look for another time"))}
					{letBe}
				</>
			);
		case "silent":
			return (
				<>
					{go({ what: "ask" }, t("Asked again"), t("Ask again"))}
					{letBe}
				</>
			);
		case "proposed":
			return (
				<Button aria-expanded={looking} onClick={onLook}>
					{looking ? t("Close") : t("Who can, and where")}
				</Button>
			);
		case "unclear":
			if (e.asks === "instead")
				return (
					<>
						{go({ what: "count", invite: true }, t("%s is invited", e.instead), t("Invite %s", e.instead))}
						{plain({ what: "count" }, t("Left"), t("Leave it"))}
					</>
				);
			if (e.asks === "meaning")
				return (
					<>
						{go({ what: "count", as: e.suggested, answer: "accepted" }, t("Counted as a yes"), t("It is a yes"))}
						{plain({ what: "count", as: e.suggested, answer: "declined" }, t("Counted as a no"), t("A no"))}
						{plain({ what: "count" }, t("Left"), t("Neither"))}
					</>
				);
			return (
				<>
					{e.suggested &&
						go(
							{ what: "count", as: e.suggested },
							t("Counted for %s", e.suggestedName),
							t("Count it for %s", e.suggestedName),
						)}
					{e.invited && (
						<Whose
							all={e.invited}
							busy={busy}
							onCount={(as, name) => press({ what: "count", as }, t("Counted for %s", name))}
						/>
					)}
					{plain({ what: "count" }, t("Left"), t("Leave it"))}
					{look}
				</>
			);
		case "ends":
			return (
				<>
					{go({ what: "extend" }, t("It goes on, everybody is told"), t("Extend to %s", e.until))}
					{plain({ what: "letBe" }, t("It ends"), t("Let it end"))}
				</>
			);
		case "call":
			return sheet(t("Take another call"));
		default:
			return (
				<>
					{look}
					{letBe}
				</>
			);
	}
}
