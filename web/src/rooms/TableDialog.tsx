import { useState } from "react";
import { problemOf } from "../api/client";
import { many, row, t } from "../tongue/tongue";
import { Button, lookOf, Note } from "../ui/kit";
import { useSay } from "../ui/notice";
import { Question } from "../ui/Question";
import { useTakeTable } from "./deeds";

/** All rooms as a table: written out, changed elsewhere, tried and taken. */
export function TableDialog({ onClose }: { onClose: () => void }) {
	const take = useTakeTable();
	const say = useSay();
	const [file, setFile] = useState<{ name: string; csv: string } | null>(null);
	const problem = take.error ? problemOf(take.error) : null;
	const tried = take.data;
	const read = async (picked: File | undefined) => {
		if (!picked) return;
		const csv = await picked.text();
		setFile({ name: picked.name, csv });
		take.mutate({ csv, try: true });
	};
	return (
		<Question title={t("All rooms as a table")} onClose={onClose} wide>
			<p className="my-2 max-w-[640px]">
				{t(
					"A line is a room, told apart by its address. Change the table in any program and take it back here: rooms it names are changed or added, all others stay, and columns that are missing stay as they are.",
				)}
			</p>
			<div className="flex flex-wrap items-center gap-3">
				<a href="/api/rooms.csv" className={`${lookOf("plain")} text-ink`}>
					{t("Get the table (.csv)")}
				</a>
				<label className={`${lookOf("plain")} cursor-pointer focus-within:outline-2`}>
					{t("Choose a table…")}
					<input
						type="file"
						accept=".csv,text/csv"
						className="sr-only"
						onChange={(e) => void read(e.target.files?.[0])}
					/>
				</label>
				{file && <span className="text-quiet">{file.name}</span>}
			</div>
			<div aria-live="polite" className="mt-3">
				{problem && (
					<Note tone="brick">
						{problem.errors?.length ? (
							<>
								<b>{t("Nothing was changed.")}</b>
								<ul className="mt-1 max-h-[40vh] overflow-y-auto">
									{problem.errors.map((e) => (
										<li key={`${e.field} ${e.detail}`}>{e.detail}</li>
									))}
								</ul>
							</>
						) : (
							problem.detail
						)}
					</Note>
				)}
				{tried && file && !problem && (
					<p>
						{tried.added + tried.changed === 0
							? t("The table says what holds already.")
							: t(
									"If you take it, %s.",
									row(
										[
											tried.added > 0 && many(tried.added, "1 room is added", "%d rooms are added"),
											tried.changed > 0 && many(tried.changed, "1 room is changed", "%d rooms are changed"),
										].filter((words) => words !== false),
									),
								)}
					</p>
				)}
			</div>
			<div className="mt-3 flex gap-2">
				<Button
					look="go"
					disabled={!file || !tried || !!problem || tried.added + tried.changed === 0}
					busy={take.isPending}
					onClick={() =>
						file &&
						take.mutate(
							{ csv: file.csv, try: false },
							{
								onSuccess: () => {
									say(t("The rooms are as the table says."));
									onClose();
								},
							},
						)
					}
				>
					{t("Take it")}
				</Button>
				<Button onClick={onClose}>{t("Close")}</Button>
			</div>
		</Question>
	);
}
