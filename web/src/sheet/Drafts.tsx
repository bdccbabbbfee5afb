import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { useTitle } from "../shell/title";
import { clock, dayWithYear, moment } from "../time/format";
import { useNow } from "../time/now";
import { many, t } from "../tongue/tongue";
import { Button, Empty, lookOf, Note, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { useDiscardSheets, useSheets } from "./deeds";
import { FromFile } from "./FromFile";
import { titleOf } from "./titleOf";
import { readLocal } from "./when";

const aPage = 50;

/** Every sheet that was begun and not sent. */
export function Drafts() {
	useTitle(t("Not sent yet"));
	const [params, setParams] = useSearchParams();
	const skip = Math.max(0, Number.parseInt(params.get("skip") ?? "", 10) || 0);
	const sheets = useSheets(aPage, skip);
	const discard = useDiscardSheets();
	const [picked, setPicked] = useState<string[]>([]);
	if (sheets.error && !sheets.data)
		return (
			<main className="p-5">
				<TryAgain error={sheets.error} again={() => sheets.refetch()} />
			</main>
		);
	if (!sheets.data) return <Skeleton lines={6} />;
	const { items, more } = sheets.data;
	const here = picked.filter((id) => items.some((s) => s.id === id));
	const pick = (id: string, on: boolean) => setPicked(on ? [...picked, id] : picked.filter((x) => x !== id));
	return (
		<main className="w-full max-w-[980px] px-5 py-4">
			<h1 className="text-[23px]">{t("Not sent yet")}</h1>
			<p className="mb-3 text-quiet">
				{t("Nobody has heard of these. Throwing one away withdraws a link that was made for it.")}
			</p>
			<FromFile />
			{items.length === 0 ? (
				<Empty title={t("Everything is sent or thrown away.")}>
					{t("A sheet is kept from the first thing you write on it.")}
				</Empty>
			) : (
				<>
					<div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
						<label className="flex items-center gap-1.5">
							<input
								type="checkbox"
								checked={here.length === items.length}
								onChange={(e) => setPicked(e.target.checked ? items.map((s) => s.id) : [])}
							/>
							{t("all of them")}
						</label>
						<Button
							look="stop"
							disabled={here.length === 0}
							busy={discard.isPending}
							onClick={() => discard.mutate(here, { onSuccess: () => setPicked([]) })}
						>
							{here.length > 1 ? t("Throw %s away", here.length) : t("Throw away")}
						</Button>
					</div>
					{discard.error && <Note tone="brick">{problemOf(discard.error).detail}</Note>}
					<ul className="border border-rule bg-sheet">
						{items.map((s) => (
							<Draft key={s.id} sheet={s} picked={here.includes(s.id)} onPick={(on) => pick(s.id, on)} />
						))}
					</ul>
				</>
			)}
			<div className="mt-3 flex gap-2">
				{skip > 0 && (
					<Button onClick={() => setParams(skip > aPage ? { skip: String(skip - aPage) } : {})}>
						{t("The ones before")}
					</Button>
				)}
				{more && <Button onClick={() => setParams({ skip: String(skip + aPage) })}>{t("More of them")}</Button>}
			</div>
		</main>
	);
}

type Props = { sheet: Schemas["SheetRef"]; picked: boolean; onPick: (on: boolean) => void };

function Draft({ sheet: s, picked, onPick }: Props) {
	const { zone } = useSignedIn();
	const now = useNow();
	const at = readLocal(s.start);
	const name = titleOf(s);
	return (
		<li className="flex items-center gap-x-3 border-[#eae4d8] border-b px-3 py-1.5 last:border-b-0">
			<input type="checkbox" aria-label={name} checked={picked} onChange={(e) => onPick(e.target.checked)} />
			<span className="min-w-0 flex-1">
				<b className="block truncate font-[650]">{s.meetingId ? t("Changes to %s", name) : name}</b>
				<span className="text-quiet text-small">
					{t(
						"%s · %s · written %s",
						at ? `${dayWithYear(at.toPlainDate())}, ${clock(at)}` : t("no time yet"),
						s.people === 0 ? t("nobody else") : many(s.people, "1 person", "%d people"),
						moment(s.updatedAt, zone, now),
					)}
					{s.sendAt && <b className="font-[650] text-fig"> · {t("goes out %s", moment(s.sendAt, zone, now))}</b>}
					{s.sendFault && <span className="text-brick"> · {t("did not go out: %s", s.sendFault)}</span>}
				</span>
			</span>
			<Link to={`/sheet/${s.id}`} aria-label={t("Go on with %s", name)} className={`${lookOf("plain")} text-ink`}>
				{t("Go on")}
			</Link>
		</li>
	);
}
