import type { ReactNode } from "react";
import { t } from "../tongue/tongue";
import { type PartName, partWords } from "./useSheetKeys";

/** A part of the sheet with its name at the left. */
export const PartRow = ({ name, children }: { name: PartName; children: ReactNode }) => (
	<section aria-label={t(partWords[name])} data-part={name} className="grid grid-cols-[52px_minmax(0,1fr)] gap-x-2.5">
		<h2 className="text-[13px] text-quiet leading-[30px]">{t(partWords[name])}</h2>
		<div className="min-w-0">{children}</div>
	</section>
);
