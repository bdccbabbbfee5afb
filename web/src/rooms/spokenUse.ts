import type { Schemas } from "../api/client";
import { clock, inZone } from "../time/format";
import { t } from "../tongue/tongue";

/** Who has the room and what for, unless that is private; a hold says until when. */
export function spokenUse(u: Schemas["RoomUse"], zone: string) {
	if (u.kind === "hold")
		return t(
			"held by %s until %s",
			u.mine ? t("you") : (u.by ?? t("somebody")),
			u.until ? clock(inZone(u.until, zone)) : "",
		);
	const asked = u.kind === "asked" ? ` · ${t("asked")}` : "";
	if (u.private && !u.mine) return `${t("private")}${asked}`;
	// What it is called is there where its organiser shows titles.
	return (u.mine ? (u.title ?? "") : [u.title, u.by].filter(Boolean).join(" · ")) + asked;
}
