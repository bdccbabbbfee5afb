import { useId } from "react";
import { t } from "../tongue/tongue";
import { FieldFault, fieldLook, Label } from "./kit";

export type Someone = { name: string; email: string };

type Props = {
	is: Someone;
	onIs: (is: Someone) => void;
	fault?: string;
	/** The reader's own, which their browser may know. */
	own?: boolean;
};

/** Who somebody is that is invited: two fields side by side, with what is wrong with the address. */
export function NameAndAddress({ is, onIs, fault, own }: Props) {
	const id = useId();
	return (
		<div className="grid items-start gap-2 sm:grid-cols-[minmax(0,1fr)_minmax(0,1.3fr)]">
			<div>
				<Label htmlFor={`${id}name`}>{own ? t("Your name (optional)") : t("Name (optional)")}</Label>
				<input
					id={`${id}name`}
					autoComplete={own ? "name" : "off"}
					className={fieldLook()}
					value={is.name}
					maxLength={200}
					onChange={(e) => onIs({ ...is, name: e.target.value })}
				/>
			</div>
			<div>
				<Label htmlFor={`${id}email`}>{own ? t("Your e-mail address") : t("E-mail address")}</Label>
				<input
					id={`${id}email`}
					type="email"
					autoComplete={own ? "email" : "off"}
					required
					className={fieldLook(!!fault)}
					aria-invalid={!!fault}
					aria-describedby={fault && `${id}fault`}
					value={is.email}
					maxLength={300}
					onChange={(e) => onIs({ ...is, email: e.target.value })}
				/>
				<FieldFault id={`${id}fault`} sentence={fault} />
			</div>
		</div>
	);
}
