import { t } from "../tongue/tongue";

/** What a sheet is called, titled or not. */
export const titleOf = (sheet: { title: string }) => sheet.title.trim() || t("untitled");
