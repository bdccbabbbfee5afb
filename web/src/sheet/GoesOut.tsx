import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { Temporal } from "temporal-polyfill";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { clock, inZone, longDayNear } from "../time/format";
import { useNow } from "../time/now";
import { many, t } from "../tongue/tongue";
import { Button, Note } from "../ui/kit";
import { useSay } from "../ui/notice";
import { useSend, useTakeBack } from "./deeds";
import { sentTo } from "./useSending";
import { readLocal } from "./when";

type Waits = NonNullable<Schemas["Sheet"]["waits"]>;

/** A Send that can still be taken back is counted down; what waits for longer has a day and a time. */
const soon = 60;

/** A sheet that goes out by itself. */
export function GoesOut({ sheet, waits }: { sheet: Schemas["Sheet"]; waits: Waits }) {
	const { zone } = useSignedIn();
	const now = useNow(250);
	const navigate = useNavigate();
	const say = useSay();
	const send = useSend(sheet.id);
	const back = useTakeBack(sheet.id);
	const left = Math.ceil((Temporal.Instant.from(waits.at).epochMilliseconds - now.epochMilliseconds) / 1000);
	const [counted] = useState(left <= soon);
	const going = useRef(false);
	const go = async () => {
		if (going.current || back.isPending) return;
		going.current = true;
		try {
			const sent = await send.mutateAsync({ version: sheet.version, key: waits.key });
			say(many(sent.told, "1 message on the way", "%d messages on the way"));
			navigate(sentTo(sheet, sent.meetingId), { replace: true });
		} catch {
			going.current = false; // said below; the program tries as well
		}
	};
	const due = left <= 0 && !send.isError && !back.isPending;
	// biome-ignore lint/correctness/useExhaustiveDependencies: once, when its moment has come
	useEffect(() => {
		if (due) void go();
	}, [due]);
	useEffect(() => {
		const hear = (e: KeyboardEvent) => {
			if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey)) return;
			e.preventDefault();
			void go();
		};
		window.addEventListener("keydown", hear, true);
		return () => window.removeEventListener("keydown", hear, true);
	});
	const first = useRef<HTMLButtonElement>(null);
	useEffect(() => first.current?.focus(), []);
	const at = inZone(waits.at, zone);
	const start = readLocal(sheet.draft.start);
	const today = now.toZonedDateTimeISO(zone).toPlainDate();
	const error = send.error ?? back.error;
	const names = [...new Set(sheet.due.map((d) => d.name))];
	return (
		<main className="mx-auto w-full max-w-[560px] px-4 pt-[9vh]">
			<section
				aria-label={t("On its way")}
				className="rounded-[4px] border border-rule border-t-[6px] border-t-fig bg-sheet px-6 py-5"
			>
				<p className="text-quiet text-small">{sheet.meetingId ? t("Changes to") : t("Invitation to")}</p>
				<h1 className="break-words text-[24px] leading-tight">{sheet.draft.title}</h1>
				{start && (
					<p className="mt-1 text-[15px]">
						{longDayNear(start.toPlainDate(), today)}
						{!sheet.draft.allDay && `, ${clock(start)}`}
					</p>
				)}
				<p className="mt-1 break-words text-quiet">
					{names.length === 0 ? t("Nobody has to hear of it.") : t("Goes to %s.", few(names))}
				</p>
				<p aria-live={counted ? "off" : "polite"} className="mt-4 text-[18px]">
					{counted ? (
						<>
							{left > 0 ? t("Goes out in %s s", left) : t("Goes out now")}
							<span aria-hidden className="mt-1.5 block h-1.5 rounded-[2px] bg-fig-wash">
								<span
									className="block h-full rounded-[2px] bg-fig"
									ref={(bar) => bar?.style.setProperty("width", `${Math.max(0, Math.min(100, left * 10))}%`)}
								/>
							</span>
						</>
					) : (
						<>
							{t("Goes out")} <b className="font-[650]">{`${longDayNear(at.toPlainDate(), today)}, ${clock(at)}`}</b>
						</>
					)}
				</p>
				{!counted && (
					<p className="mt-1 text-quiet text-small">
						{t(
							"It waits as it is, and so does its room. Take it back to change it. If something comes in between, Today says so.",
						)}
					</p>
				)}
				{error && (
					<div className="mt-3">
						<Note tone="brick">{problemOf(error).errors?.[0]?.detail ?? problemOf(error).detail}</Note>
					</div>
				)}
				<div className="mt-4 flex flex-wrap gap-2">
					<Button ref={first} busy={back.isPending} disabled={send.isPending} onClick={() => back.mutate(undefined)}>
						{t("Take it back")}
					</Button>
					<Button look="go" busy={send.isPending} disabled={back.isPending} onClick={() => void go()}>
						{t("Send now")}
					</Button>
				</div>
			</section>
		</main>
	);
}

const few = (names: string[]) =>
	names.length > 4 ? t("%s and %s more", names.slice(0, 3).join(", "), names.length - 3) : names.join(", ");
