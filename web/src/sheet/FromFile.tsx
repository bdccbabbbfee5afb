import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, problemOf, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";
import { t } from "../tongue/tongue";
import { inBase64 } from "../ui/base64";
import { useDrop } from "../ui/drop";
import { Button, Note } from "../ui/kit";
import { useSay } from "../ui/notice";

const mostBytes = 2_000_000;

/** Opens sheets for the meetings of a calendar file. */
function useFromFile() {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: async (file: File) => take(api.POST("/api/sheets/from-file", { body: { b64: await inBase64(file) } })),
		onSettled: () => queries.invalidateQueries({ queryKey: keys.sheets }),
	});
}

/** A calendar file is chosen, or dropped here: each meeting in it becomes a sheet. */
export function FromFile() {
	const id = useId();
	const input = useRef<HTMLInputElement>(null);
	const [opened, setOpened] = useState<Schemas["FiledSheet"][]>([]);
	const taking = useFromFile();
	const navigate = useNavigate();
	const say = useSay();
	const [large, setLarge] = useState(false);
	const takeFile = (file: File | undefined) => {
		setLarge(!!file && file.size > mostBytes);
		if (!file || file.size > mostBytes) return;
		taking.mutate(file, {
			onSuccess: ({ items }) => {
				const [only] = items;
				if (items.length === 1 && only && only.lost.length === 0) {
					say(t("Taken from the file"));
					navigate(`/sheet/${only.id}`);
				} else setOpened(items);
			},
		});
	};
	const drop = useDrop((files) => takeFile(files[0]));
	const fault = large
		? t("This file is larger than 2 MB: it is a calendar. Subscribe to it under Hours.")
		: taking.error && faultOf(taking.error);
	return (
		<section
			aria-label={t("From a calendar file")}
			className={`mb-3 rounded-[4px] border-[1.5px] border-dashed p-3 ${drop.over ? "border-fig bg-fig-wash" : "border-rule"}`}
			{...drop.on}
		>
			<div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
				<label htmlFor={id}>{t("Drop a calendar file (.ics) here, or")}</label>
				<input
					ref={input}
					id={id}
					type="file"
					accept=".ics,text/calendar"
					className="sr-only"
					onChange={(e) => {
						takeFile(e.target.files?.[0]);
						e.target.value = "";
					}}
				/>
				<Button busy={taking.isPending} onClick={() => input.current?.click()}>
					{t("Choose a file")}
				</Button>
				<span className="text-quiet text-small">{t("each meeting in it becomes a sheet; nobody hears of it")}</span>
			</div>
			{fault && (
				<div className="mt-2">
					<Note tone="brick">{fault}</Note>
				</div>
			)}
			{opened.length > 0 && (
				<ul aria-label={t("Taken from the file")} className="mt-2 flex flex-col gap-1">
					{opened.map((s) => (
						<li key={s.id}>
							<Link to={`/sheet/${s.id}`}>{s.title || t("Without a title")}</Link>
							{s.lost.length > 0 && (
								<span className="block text-honey text-small">{t("not taken over: %s", s.lost.join("; "))}</span>
							)}
						</li>
					))}
				</ul>
			)}
		</section>
	);
}

function faultOf(error: Error) {
	const problem = problemOf(error);
	return problem.errors?.[0]?.detail ?? problem.detail;
}
