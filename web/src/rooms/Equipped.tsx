import { useRooms } from "../sheet/deeds";
import { t } from "../tongue/tongue";

type Props = {
	equipment: string[];
	site: string;
	look: string;
	setEquipment: (all: string[]) => void;
	setSite: (id: string) => void;
	/** Where a floor can be chosen as well. */
	floor?: string;
	setFloor?: (name: string) => void;
};

/** Floor 2 comes before floor 10. */
const order = new Intl.Collator(undefined, { numeric: true });

/** What a room must have in it, and where it is. */
export function Equipped({ equipment, site, look, setEquipment, setSite, floor, setFloor }: Props) {
	const rooms = useRooms().data?.items ?? [];
	const known = [...new Set(rooms.flatMap((r) => r.equipment))].sort(order.compare);
	const floors = [...new Set(rooms.filter((r) => !site || r.siteId === site).map((r) => r.floor))].sort(order.compare);
	const sites = [...new Map(rooms.map((r) => [r.siteId, r.site]))];
	return (
		<>
			{equipment.map((e) => (
				<button
					key={e}
					type="button"
					className="rounded-[3px] bg-slate-wash px-1.5 text-ink"
					onClick={() => setEquipment(equipment.filter((x) => x !== e))}
				>
					<span className="sr-only">{t("Without")} </span>
					{e} <span aria-hidden>✕</span>
				</button>
			))}
			<select
				aria-label={t("Equipment")}
				className={look}
				value=""
				onChange={(e) => setEquipment([...equipment, e.target.value])}
			>
				<option value="">{t("+ equipment")}</option>
				{known
					.filter((e) => !equipment.includes(e))
					.map((e) => (
						<option key={e}>{e}</option>
					))}
			</select>
			<select aria-label={t("Place")} className={look} value={site} onChange={(e) => setSite(e.target.value)}>
				<option value="">{t("any place")}</option>
				{sites.map(([id, name]) => (
					<option key={id} value={id}>
						{name}
					</option>
				))}
			</select>
			{setFloor && (
				<select aria-label={t("Floor")} className={look} value={floor} onChange={(e) => setFloor(e.target.value)}>
					<option value="">{t("any floor")}</option>
					{floors.map((name) => (
						<option key={name}>{name}</option>
					))}
				</select>
			)}
		</>
	);
}
