import { InTongue } from "../tongue/InTongue";
import { type Term, t } from "../tongue/tongue";
import { Empty } from "../ui/kit";

/** Nothing is here any more: said in the language of the browser, as nobody knows who reads it. */
export const Gone = ({ title, what }: { title: Term; what: Term }) => (
	<InTongue language={navigator.language.split("-")[0] ?? ""}>
		{() => <Empty title={t(title)}>{t(what)}</Empty>}
	</InTongue>
);
