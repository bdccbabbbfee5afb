import type { Schemas } from "../api/client";
import { useKeys } from "../shell/keys";
import { copyText } from "../ui/copy";
import { useSay } from "../ui/notice";

/** Lets c copy the join card in view. */
export function useCopyKey(card: Schemas["Card"] | undefined) {
	const say = useSay();
	useKeys({
		c: async () => {
			if (card) say((await copyText(card.text)) ? "Join card copied" : "The browser does not allow copying here");
		},
	});
}
