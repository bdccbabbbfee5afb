import { useId, useRef, useState } from "react";
import { type Problem, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { t } from "../tongue/tongue";
import { useDrop } from "../ui/drop";
import { Button, FieldFault } from "../ui/kit";
import { addFile } from "./deeds";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./part";

/** Files that go with the meeting: chosen, or dropped here. */
export function FilesPart({ draft, change, store, faults }: Part) {
	const id = useId();
	const input = useRef<HTMLInputElement>(null);
	const [coming, setComing] = useState<string[]>([]);
	const [refused, setRefused] = useState("");
	const { fileLimit, fileLimitWords } = useSignedIn();
	const files = draft.files ?? [];
	/** What the draft has by now: it may have changed while a file was on its way. */
	const now = () => store.get().draft.files ?? [];
	const take = async (chosen: File[]) => {
		setRefused("");
		for (const file of chosen) {
			if (file.size > fileLimit) {
				setRefused(t("%s is larger than %s. Put a link to it into the text.", file.name, fileLimitWords));
				continue;
			}
			setComing((c) => [...c, file.name]);
			try {
				const added = await addFile(file);
				change({ files: [...now(), added] });
			} catch (error) {
				setRefused(why(problemOf(error), file.name));
				throw error;
			} finally {
				setComing((c) => c.toSpliced(c.indexOf(file.name), 1));
			}
		}
	};
	const add = (chosen: FileList | null) => {
		if (chosen?.length) store.awaits(take([...chosen]));
	};
	const drop = useDrop(add);
	const sentence = refused || faultAt(faults, "files")?.detail;
	return (
		<PartRow name="Files">
			<div className={`rounded-[3px] ${drop.over ? "outline-2 outline-fig outline-dashed" : ""}`} {...drop.on}>
				{files.length > 0 && (
					<ul aria-label={t("Files that go with it")} className="mb-1">
						{files.map((f) => (
							<Line key={f.id} file={f} onDrop={() => change({ files: now().filter((x) => x.id !== f.id) })} />
						))}
					</ul>
				)}
				<span className="flex min-h-[30px] flex-wrap items-center gap-x-2 text-quiet text-small">
					<Button look="bare" onClick={() => input.current?.click()}>
						{t("Add files")}
					</Button>
					<span role="status">
						{coming.length > 0
							? t("%s is on its way…", coming.join(", "))
							: files.length === 0 && t("or drop them here")}
					</span>
				</span>
				<input
					ref={input}
					id={id}
					type="file"
					multiple
					aria-label={t("Choose files")}
					aria-describedby={sentence && "fault-files"}
					tabIndex={-1}
					className="sr-only"
					onChange={(e) => {
						add(e.target.files);
						e.target.value = "";
					}}
				/>
			</div>
			<FieldFault id="fault-files" sentence={sentence} />
		</PartRow>
	);
}

const Line = ({ file, onDrop }: { file: Schemas["File"]; onDrop: () => void }) => (
	<li className="flex items-baseline gap-2">
		<a href={`/api/files/${file.id}`} className="min-w-0 truncate underline underline-offset-3" title={file.name}>
			{file.name}
		</a>
		<span className="shrink-0 text-quiet text-small">{file.words}</span>
		<Button look="bare" aria-label={t("Take off %s", file.name)} onClick={onDrop}>
			{t("Take off")}
		</Button>
	</li>
);

const why = (problem: Problem, name: string) =>
	problem.errors?.[0]?.detail ??
	t("%s did not arrive. %s", name, problem.status === 0 ? t("Add it again when Jembro answers.") : problem.detail);
