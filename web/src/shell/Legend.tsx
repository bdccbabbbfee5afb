import type { ReactNode } from "react";
import { type Term, t } from "../tongue/tongue";
import { Button } from "../ui/kit";
import { Question } from "../ui/Question";

/** Signs that belong together, and what each means. */
export type Group = [Term, [ReactNode, Term][]];

type Props = {
	title: string;
	groups: Group[];
	/** The width of the column at the left. */
	left: string;
	onClose: () => void;
};

/** What signs mean, in groups. */
export const Legend = ({ title, groups, left, onClose }: Props) => (
	<Question title={title} onClose={onClose}>
		{groups.map(([name, lines]) => (
			<section key={t(name)} className="mt-2.5">
				<h3 className="text-[15px]">{t(name)}</h3>
				<dl className="mt-1 grid items-center gap-x-4 gap-y-1" style={{ gridTemplateColumns: `${left} 1fr` }}>
					{lines.map(([sign, words]) => (
						<div key={t(words)} className="contents">
							<dt>{sign}</dt>
							<dd>{t(words)}</dd>
						</div>
					))}
				</dl>
			</section>
		))}
		<div className="mt-3">
			<Button onClick={onClose}>{t("Close")}</Button>
		</div>
	</Question>
);
