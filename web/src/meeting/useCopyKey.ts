import type { Schemas } from "../api/client";
import { useKeys } from "../shell/keys";
import { t } from "../tongue/tongue";
import { useCopy } from "../ui/copy";

/** Lets c copy the join card in view. */
export function useCopyKey(card: Schemas["Card"] | undefined) {
	const copy = useCopy();
	useKeys({ c: () => card && void copy(card.text, t("Join card")) });
}
