import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { api, reading, take } from "../api/client";
import { keys } from "../api/keys";
import { Skeleton } from "../ui/kit";
import { useLast } from "../ui/last";
import { english, marked, speak } from "./tongue";

/**
 * A page in the language of its reader; in English where its sentences cannot be had. The page is drawn by
 * a function, so that another language draws it anew and what is typed in it stays.
 */
export function InTongue({ language, children }: { language: string; children: (language: string) => ReactNode }) {
	const foreign = language !== "en" && language !== marked;
	const words = useQuery({
		queryKey: keys.words(language),
		queryFn: () => take(api.GET("/api/guest/words/{language}", { params: { path: { language } } })),
		enabled: foreign,
		staleTime: Number.POSITIVE_INFINITY,
		retry: 1,
	});
	const own = foreign ? words.data && { language, messages: words.data.messages } : { language, messages: {} };
	const spoken = useLast(own ?? (words.isError ? english : null));
	const tag = spoken?.language ?? "";
	useEffect(() => {
		reading.language = language;
		if (tag) document.documentElement.lang = tag;
	}, [language, tag]);
	if (!spoken) return <Skeleton lines={6} />;
	speak(spoken); // before anything of the page is drawn
	return children(tag);
}
