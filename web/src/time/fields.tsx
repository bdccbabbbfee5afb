import { useState } from "react";
import { useSignedIn } from "../api/me";
import { fieldLook } from "../ui/kit";
import { shortDay } from "./format";
import { useNow } from "./now";
import { parseClock, parseDay } from "./parse";

type TypedProps = { name: string; bad: boolean; fault: string; className: string; placeholder?: string };

/** A field in which a day or time is typed in any common way; it is put right when the field is left. */
function Typed(props: TypedProps & { shown: string; take: (typed: string) => void }) {
	const [typed, setTyped] = useState<string | null>(null);
	const leave = () => {
		if (typed !== null) props.take(typed);
		setTyped(null);
	};
	return (
		<input
			aria-label={props.name}
			aria-invalid={props.bad}
			aria-describedby={props.bad ? props.fault : undefined}
			autoComplete="off"
			placeholder={props.placeholder}
			className={`${fieldLook(props.bad)} ${props.className}`}
			value={typed ?? props.shown}
			onChange={(e) => setTyped(e.target.value)}
			onBlur={leave}
			onKeyDown={(e) => e.key === "Enter" && !e.ctrlKey && leave()}
		/>
	);
}

type Field = { name: string; bad: boolean; fault: string; placeholder?: string };

export function ClockField({ local, onChange, ...rest }: Field & { local: string; onChange: (local: string) => void }) {
	const stored = local.slice(local.lastIndexOf("T") + 1);
	const take = (typed: string) => {
		const at = `${local.slice(0, local.lastIndexOf("T"))}T${parseClock(typed) ?? typed}`;
		if (at !== local) onChange(at);
	};
	return (
		<Typed
			{...rest}
			className="max-w-[58px]"
			shown={parseClock(stored) ? stored.replace(/^0/, "") : stored}
			take={take}
		/>
	);
}

/** Shows "Thu 3 Dec", with the year when it is not this one. */
export function DayField({ day, onChange, ...rest }: Field & { day: string; onChange: (day: string) => void }) {
	const { zone } = useSignedIn();
	const today = useNow().toZonedDateTimeISO(zone).toPlainDate();
	const at = /^\d{4}-/.test(day) ? parseDay(day, today) : null;
	const shown = at ? `${shortDay(at)}${at.year === today.year ? "" : ` ${at.year}`}` : day;
	const take = (typed: string) => {
		const to = parseDay(typed, today)?.toString() ?? typed;
		if (to !== day && typed !== shown) onChange(to);
	};
	return (
		<Typed
			{...rest}
			className={at && at.year !== today.year ? "max-w-[132px]" : "max-w-[102px]"}
			shown={shown}
			take={take}
		/>
	);
}
