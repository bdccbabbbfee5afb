import type { Schemas } from "../api/client";
import { t } from "../tongue/tongue";

/** Files that go with a meeting, to be opened. */
export function Files({ files, at }: { files: Schemas["File"][] | undefined; at: string }) {
	return files?.length ? (
		<ul aria-label={t("Files")} className="flex flex-col gap-1">
			{files.map((f) => (
				<li key={f.id} className="flex items-baseline gap-2">
					<a href={`${at}/${f.id}`} className="min-w-0 break-words underline underline-offset-3">
						{f.name}
					</a>
					<span className="shrink-0 text-quiet text-small">{f.words}</span>
				</li>
			))}
		</ul>
	) : null;
}
