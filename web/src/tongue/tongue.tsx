import { useQuery } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useMemo } from "react";
import type { Temporal } from "temporal-polyfill";
import { api, type Problem, reading, take } from "../api/client";
import { keys } from "../api/keys";
import * as english from "../time/format";
import { Skeleton } from "../ui/kit";

type Messages = Record<string, string>;
type Args = (string | number)[];

/** How a page speaks to its reader: sentences of the catalogue by their English, and dates. */
export type Tongue = {
	language: string;
	/** A sentence; %s, or %[1]s and so on, stand for what is put in. */
	t: (id: string, ...args: Args) => string;
	/** What a refusal says: the program writes it in the language of the page, but for what never reached it. */
	refusal: (problem: Problem) => string;
	/** What is counted; `one` is the English for one. */
	many: (n: number, one: string, id: string) => string;
	longDay: typeof english.longDay;
	longDayNear: typeof english.longDayNear;
	shortDay: typeof english.shortDay;
	times: typeof english.times;
	spell: typeof english.spell;
	city: typeof english.city;
};

/** A sentence with what is put in: each %s takes the next, %[2]s the second. */
function fill(sentence: string, args: Args) {
	let next = 0;
	return sentence.replace(/%(?:\[(\d)\])?[sdq]/g, (_, at?: string) => String(args[at ? Number(at) - 1 : next++] ?? ""));
}

const { longDay, longDayNear, shortDay, times, spell, city } = english;

const inEnglish: Tongue = {
	...{ longDay, longDayNear, shortDay, times, spell, city },
	language: "en",
	t: (id, ...args) => fill(id, args),
	refusal: (problem) => problem.detail ?? "",
	many: (n, one, id) => fill(n === 1 ? one : id, [n]),
};

/** Another language: its sentences come from the catalogue, how it writes dates from the browser (CLDR). */
function speak(language: string, messages: Messages): Tongue {
	const t = (id: string, ...args: Args) => fill(messages[id] ?? id, args);
	const plurals = new Intl.PluralRules(language);
	const written = (options: Intl.DateTimeFormatOptions) => (d: Temporal.PlainDate) =>
		d.toLocaleString(language, options);
	const longDay = written({ weekday: "long", day: "numeric", month: "long" });
	const fullDay = written({ weekday: "long", day: "numeric", month: "long", year: "numeric" });
	const shortDay = written({ weekday: "short", day: "numeric", month: "short" });
	const times = (start: string, end: string, zone: string) => english.times(start, end, zone, shortDay);
	const many = (n: number, one: string, id: string) =>
		fill(messages[`${id} ${plurals.select(n)}`] ?? messages[`${id} other`] ?? (n === 1 ? one : id), [n]);
	return {
		language,
		t,
		refusal: (problem) => (problem.status === 0 ? t(problem.detail ?? "") : (problem.detail ?? "")),
		many,
		longDay,
		longDayNear: (d, today) => (d.year === today.year ? longDay(d) : fullDay(d)),
		shortDay,
		times,
		spell: (m, zone) => {
			if (!m.allDay) return `, ${times(m.start, m.end, zone)}`;
			const { last, days } = english.wholeDays(m);
			return days < 2 ? `, ${t("all day")}` : ` – ${shortDay(last)}, ${many(days, "%d day", "%d days")}`;
		},
		city: (zone) => t(english.city(zone)),
	};
}

const Spoken = createContext(inEnglish);

/** How the page around speaks; English where nothing else is said. */
export const useTongue = () => useContext(Spoken);

/** A page in the language of its reader; in English where its sentences cannot be had. */
export function InTongue({ language, children }: { language: string; children: ReactNode }) {
	const foreign = language !== "en";
	const words = useQuery({
		queryKey: keys.words(language),
		queryFn: () => take(api.GET("/api/guest/words/{language}", { params: { path: { language } } })),
		enabled: foreign,
		staleTime: Number.POSITIVE_INFINITY,
		retry: 1,
	});
	const tongue = useMemo(
		() => (foreign && words.data ? speak(language, words.data.messages) : inEnglish),
		[foreign, language, words.data],
	);
	useEffect(() => {
		reading.language = language;
	}, [language]);
	if (foreign && words.isPending) return <Skeleton lines={6} />;
	return (
		<Spoken value={tongue}>
			<div lang={tongue.language}>{children}</div>
		</Spoken>
	);
}
