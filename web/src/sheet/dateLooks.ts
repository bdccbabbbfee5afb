import type { Schemas } from "../api/client";

export const dateLooks: Record<Schemas["SheetDate"]["state"], { look: string; words: string; mark: string }> = {
	fits: { look: "bg-white", words: "text-moss", mark: "✓" },
	soft: { look: "bg-honey-wash", words: "text-honey", mark: "!" },
	busy: { look: "bg-honey-wash", words: "text-honey font-[650]", mark: "!!" },
	noroom: { look: "bg-brick-wash", words: "text-brick", mark: "✕" },
	out: { look: "bg-paper", words: "text-quiet", mark: "–" },
	held: { look: "bg-paper", words: "text-quiet", mark: "" },
};
