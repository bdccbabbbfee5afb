import { InTongue, useTongue } from "../tongue/tongue";
import { Empty } from "../ui/kit";

type Props = { title: string; children: string };

/** Nothing is here any more: said in the language of the browser, as nobody knows who reads it. */
export const Gone = (props: Props) => (
	<InTongue language={navigator.language.split("-")[0] ?? ""}>
		<Said {...props} />
	</InTongue>
);

function Said({ title, children }: Props) {
	const { t } = useTongue();
	return <Empty title={t(title)}>{t(children)}</Empty>;
}
