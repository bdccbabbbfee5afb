import { useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { Bracket, type Reach } from "../series/Bracket";
import { inZone, longDayNear } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { Button, fieldLook, Label, Note } from "../ui/kit";
import { Question } from "../ui/Question";
import { buttonWords, effectWords } from "./callOffWords";
import { useCallOff, useCallOffEffect } from "./deeds";
import { seriesCell } from "./SeriesDates";

type Meeting = Schemas["Meeting"];

/** Asks before anything is called off: of a series, which dates. */
export function CallOffQuestion({ m, on, onClose }: { m: Meeting; on: string; onClose: () => void }) {
	const { zone } = useSignedIn();
	const today = useNow().toZonedDateTimeISO(zone).toPlainDate();
	const series = m.series;
	const cells = series?.dates.map((d) => seriesCell(d, zone, m)) ?? [];
	const coming = cells.filter((c) => !c.fixed);
	const at = coming.some((c) => c.day === on) ? on : (coming[0]?.day ?? on);
	const [word, setWord] = useState("");
	const [reach, setReach] = useState<Reach>({ from: at, to: at });
	const meant = series ? reach : undefined;
	const callOff = useCallOff(m);
	const effect = useCallOffEffect(m, meant);
	const told = effect.data?.names.length ?? m.participants.length;
	const error = callOff.error ?? effect.error;
	return (
		<Question
			wide={!!series}
			title={
				series ? t("Call off %s", m.title) : t("Call off %s?", longDayNear(inZone(m.start, zone).toPlainDate(), today))
			}
			onClose={onClose}
		>
			{series && (
				<div className="my-2">
					<Bracket cells={cells} reach={reach} at={at} onReach={setReach} />
				</div>
			)}
			<p className="my-2 min-h-6" aria-live="polite">
				{effect.data && effectWords(effect.data, !!series)}
			</p>
			{told > 0 && (
				<div className="max-w-[440px]">
					<Label htmlFor="word-calloff">{t("A word to them (optional)")}</Label>
					<input
						id="word-calloff"
						className={fieldLook()}
						value={word}
						maxLength={1000}
						onChange={(e) => setWord(e.target.value)}
					/>
				</div>
			)}
			{error && (
				<div className="mt-2">
					<Note tone="brick">{problemOf(error).errors?.[0]?.detail ?? problemOf(error).detail}</Note>
				</div>
			)}
			<div className="mt-3 flex gap-2">
				<Button
					look="stop"
					busy={callOff.isPending}
					disabled={!effect.data}
					onClick={() => callOff.mutate({ word, reach: meant }, { onSuccess: onClose })}
				>
					{effect.data ? buttonWords(effect.data, !!series) : t("Call off")}
				</Button>
				<Button onClick={onClose}>{t("Keep it")}</Button>
			</div>
		</Question>
	);
}
