import { X } from "lucide-react";
import { type ReactNode, type SubmitEvent, useId, useState } from "react";
import { Link } from "react-router";
import { problemOf } from "../api/client";
import { useSignedIn } from "../api/me";
import { inZone, moment } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { useCopy } from "../ui/copy";
import { Button, FieldFault, fieldLook, Note, Skeleton } from "../ui/kit";
import { useSay } from "../ui/notice";
import { TryAgain } from "../ui/TryAgain";
import { mendings } from "./cells";
import { type DispatchDetail, useMarkTold, useMessage, useRenewPage, useSendAgain, useWays } from "./deeds";

/** One message with all that was heard of it, and the other ways to its reader. */
export function Ways({ id, onClose }: { id: string; onClose: () => void }) {
	const ways = useWays(id);
	return (
		<aside
			aria-label={t("One message")}
			className="border-rule bg-sheet p-4 max-lg:border-t lg:sticky lg:top-0 lg:max-h-screen lg:overflow-y-auto lg:border-l"
		>
			<div className="flex justify-end">
				<Button look="bare" onClick={onClose} aria-label={t("Close")}>
					<X aria-hidden size={16} />
				</Button>
			</div>
			{ways.data ? (
				<Detail id={id} d={ways.data} onSent={onClose} />
			) : ways.error ? (
				<TryAgain error={ways.error} again={() => ways.refetch()} />
			) : (
				<Skeleton lines={5} />
			)}
		</aside>
	);
}

function Detail({ id, d, onSent }: { id: string; d: DispatchDetail; onSent: () => void }) {
	const { zone } = useSignedIn();
	const now = useNow();
	const { line } = d;
	const { troubled: open, lost } = line;
	return (
		<>
			<p className="text-quiet text-small">
				<Link to={`/meeting/${d.meetingId}`}>{d.title}</Link>
			</p>
			<h2 className="break-words text-[19px] leading-tight">
				{lost ? t("%s was not reached", line.name) : t("To %s", line.name)}
			</h2>
			{d.why && (
				<div className="mt-2">
					<Note tone={lost ? "brick" : "honey"}>
						<b className="block">
							{d.server && `${d.server}, `}
							{line.troubleAt && moment(line.troubleAt, zone, now)}
						</b>
						{d.said && <span className="block break-words">{d.said}</span>}
						<span className="block">{d.why}</span>
						{line.mended !== "none" && <b className="block">{t("Settled: %s.", t(mendings[line.mended]))}</b>}
					</Note>
				</div>
			)}
			{line.outside && (
				<>
					<h3 className="mt-3.5 text-[15px]">{t("Another way")}</h3>
					<div className="mt-1.5 flex flex-col gap-2">
						<Elsewhere id={id} d={d} onSent={onSent} />
						<ByHand id={id} d={d} open={open} />
					</div>
				</>
			)}
			<h3 className="mt-3.5 text-[15px]">{t("All of it")}</h3>
			<ol className="mt-1 grid grid-cols-[112px_minmax(0,1fr)] gap-y-1 text-[13px]">
				{d.events.map((e, i) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: lines of a history stay in place
					<li key={i} className="contents">
						<time dateTime={e.at} className="text-quiet">
							{moment(e.at, zone, now)}:{String(inZone(e.at, zone).second).padStart(2, "0")}
						</time>
						<span className="break-words">{e.words}</span>
					</li>
				))}
			</ol>
			<AsSent id={id} />
		</>
	);
}

const Way = ({ title, says, children }: { title: ReactNode; says?: ReactNode; children: ReactNode }) => (
	<div className="flex items-center gap-2 rounded-[4px] border border-rule px-2.5 py-1.5">
		<div className="min-w-0 flex-1">
			<span className="break-words">{title}</span>
			{says && <span className="block text-quiet text-small">{says}</span>}
		</div>
		{children}
	</div>
);

/** Sends it once more, to the same address or another. */
function Elsewhere({ id, d, onSent }: { id: string; d: DispatchDetail; onSent: () => void }) {
	const again = useSendAgain(id);
	const say = useSay();
	const field = useId();
	const [address, setAddress] = useState("");
	const send = (to?: string) =>
		again.mutate(to, {
			onSuccess: () => {
				say(to ? t("Sent to %s", to) : t("Sent again"));
				onSent();
			},
		});
	const submit = (e: SubmitEvent) => {
		e.preventDefault();
		send(address);
	};
	const fault = again.error && problemOf(again.error);
	if (!d.again)
		return (
			<p className="text-quiet text-small">
				{d.line.state === "queued" ? t("It is on its way.") : t("Something newer was sent since.")}
			</p>
		);
	return (
		<>
			{d.known.map((k) => (
				<Way key={k.email} title={<b className="font-[650]">{k.email}</b>} says={k.words}>
					<Button look="go" disabled={again.isPending} onClick={() => send(k.email)}>
						{t("Send there")}
					</Button>
				</Way>
			))}
			<form noValidate onSubmit={submit} className="rounded-[4px] border border-rule px-2.5 py-1.5">
				<label htmlFor={field} className="mb-0.5 block text-quiet text-small">
					{t("Another address")}
				</label>
				<div className="flex gap-2">
					<input
						id={field}
						type="email"
						value={address}
						onChange={(e) => setAddress(e.target.value)}
						aria-describedby={fault ? `${field}-fault` : undefined}
						aria-invalid={!!fault}
						className={fieldLook(!!fault)}
					/>
					<Button type="submit" busy={again.isPending} disabled={address.trim() === ""}>
						{t("Send")}
					</Button>
				</div>
				<FieldFault id={`${field}-fault`} sentence={fault ? (fault.errors?.[0]?.detail ?? fault.detail) : undefined} />
			</form>
			<Way title={t("The same once more")} says={d.helps ? d.line.address : t("it will most likely come back again")}>
				<Button disabled={again.isPending} onClick={() => send()}>
					{t("Try again")}
				</Button>
			</Way>
		</>
	);
}

/** What the organiser does themselves: a text, the page, the telephone. */
function ByHand({ id, d, open }: { id: string; d: DispatchDetail; open: boolean }) {
	const copy = useCopy();
	const told = useMarkTold(id);
	const renew = useRenewPage(id);
	return (
		<>
			{d.text && (
				<Way title={t("Text with time, place and join card")} says={t("for a chat, a letter, your own mail")}>
					<Button onClick={() => copy(d.text, t("Text"))}>{t("Copy")}</Button>
				</Way>
			)}
			{d.guestUrl && (
				<Way
					title={t("The guest’s own page")}
					says={
						renew.isSuccess ? (
							t("its address is new; the one in their mail no longer opens")
						) : (
							<>
								{t("answers without an account")}{" "}
								<Button look="bare" busy={renew.isPending} onClick={() => renew.mutate()}>
									{t("Withdraw and make anew")}
								</Button>
							</>
						)
					}
				>
					<Button onClick={() => copy(d.guestUrl, t("Link"))}>{t("Copy link")}</Button>
				</Way>
			)}
			{open && (
				<Way title={t("Told by telephone, or by that text")}>
					<Button busy={told.isPending} onClick={() => told.mutate("told")}>
						{t("Mark as told")}
					</Button>
				</Way>
			)}
			{told.error && <Note tone="brick">{problemOf(told.error).detail}</Note>}
			{renew.error && <Note tone="brick">{problemOf(renew.error).detail}</Note>}
		</>
	);
}

function AsSent({ id }: { id: string }) {
	const [shown, setShown] = useState(false);
	const message = useMessage(id, shown);
	return (
		<details className="mt-2.5" onToggle={(e) => setShown(e.currentTarget.open)}>
			<summary className="cursor-pointer text-moss underline underline-offset-3">
				{t("The message as it went out")}
			</summary>
			{message.data ? (
				<div className="mt-1.5 border border-rule bg-white p-2.5 text-small">
					<b className="break-words">{message.data.subject}</b>
					<p className="mt-1 whitespace-pre-line break-words">{message.data.text}</p>
				</div>
			) : message.error ? (
				<TryAgain error={message.error} again={() => message.refetch()} />
			) : (
				<Skeleton lines={3} />
			)}
		</details>
	);
}
