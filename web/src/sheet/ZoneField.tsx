import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { keys } from "../api/keys";
import { city, clock } from "../time/format";
import { useNow } from "../time/now";
import { choicesOf, find, offsetWords, type ZoneChoice } from "../time/zones";
import { t } from "../tongue/tongue";
import { optionLook } from "../ui/kit";
import { faultAt, type Part } from "./part";

/** The zones come with the first look at them. */
const useZones = (asked: boolean) =>
	useQuery({
		queryKey: keys.zones,
		queryFn: async () => {
			const { rawTimeZones } = await import("@vvo/tzdb");
			return choicesOf(rawTimeZones);
		},
		enabled: asked,
		staleTime: Number.POSITIVE_INFINITY,
	});

/** The zone of the meeting. */
export function ZoneField({ part, own }: { part: Part; own: string }) {
	const { draft, change, faults, day } = part;
	return (
		<ZoneChooser
			label={t("Time zone")}
			zone={draft.zone}
			own={own}
			likely={[draft.zone, ...(day?.lanes.map((l) => l.zone ?? "") ?? [])]}
			bad={!!faultAt(faults, "zone")}
			fault="fault-zone"
			set={(zone) => change({ zone })}
		/>
	);
}

type Chooser = {
	label: string;
	zone: string;
	/** The zone of who chooses. */
	own: string;
	likely: string[];
	bad?: boolean;
	fault?: string;
	set: (zone: string) => void;
};

/** A time zone, found by city, country, offset or any name it has or had. */
export function ZoneChooser({ label, zone, own, bad, fault, set, ...props }: Chooser) {
	const [typed, setTyped] = useState("");
	const [asked, setAsked] = useState(false);
	const now = useNow();
	const zones = useZones(asked).data ?? [];
	const there = (zone: string) => now.toZonedDateTimeISO(zone);
	const likely = [...new Set([own, ...props.likely])].filter(Boolean);
	const found = find(zones, typed, likely, (zone) => there(zone).offsetNanoseconds / 6e10);
	return (
		<Combobox
			as="div"
			className="relative"
			immediate
			value={zone}
			onChange={(chosen: string | null) => chosen && chosen !== zone && set(chosen)}
			onClose={() => setTyped("")}
		>
			<ComboboxInput
				aria-label={label}
				aria-invalid={!!bad}
				aria-describedby={fault}
				autoComplete="off"
				className="w-[170px] rounded-[3px] border border-rule bg-white px-1.5 py-px text-ink"
				displayValue={(zone: string) => (zone === own ? t("%s time", city(zone)) : city(zone))}
				onFocus={(e) => {
					setAsked(true);
					e.currentTarget.select();
				}}
				onChange={(e) => setTyped(e.target.value)}
			/>
			<ComboboxOptions
				modal={false}
				className="absolute top-full left-0 z-20 w-[330px] rounded-[4px] border border-ink bg-sheet shadow-[4px_4px_0_rgb(29_42_44/0.12)]"
			>
				{found.map((z) => (
					<Zone key={z.name} zone={z} hour={clock(there(z.name))} offset={there(z.name).offsetNanoseconds / 6e10} />
				))}
				{found.length === 0 && (
					<p className="px-2.5 py-1.5 text-body">
						{zones.length === 0
							? t("Looking…")
							: t("No such place. Type a city, a country, or an offset like UTC+5:30.")}
					</p>
				)}
			</ComboboxOptions>
		</Combobox>
	);
}

const Zone = ({ zone, hour, offset }: { zone: ZoneChoice; hour: string; offset: number }) => (
	<ComboboxOption value={zone.name} className={`${optionLook} text-ink`}>
		<span className="min-w-0 flex-1 truncate" title={zone.name}>
			{zone.words} <span className="text-quiet">{zone.country}</span>
		</span>
		<span className="whitespace-nowrap text-quiet">{t("%s · UTC%s", hour, offsetWords(offset))}</span>
	</ComboboxOption>
);
