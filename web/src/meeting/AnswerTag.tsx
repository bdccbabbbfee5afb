import type { Schemas } from "../api/client";
import { t } from "../tongue/tongue";
import { Tag } from "../ui/kit";

type Participant = Pick<Schemas["Participant"], "answer" | "dispatch">;

/** How somebody stands: what they answered, or that they were not reached. */
export function AnswerTag({ participant: p }: { participant: Participant }) {
	if (p.answer === "accepted") return <Tag tone="moss">{t("accepted")}</Tag>;
	if (p.answer === "maybe") return <Tag tone="honey">{t("maybe")}</Tag>;
	if (p.answer === "declined") return <Tag>{t("declined")}</Tag>;
	if (p.dispatch?.state === "failed") return <Tag tone="brick">{t("not delivered")}</Tag>;
	return <Tag tone="honey">{t("no answer yet")}</Tag>;
}
