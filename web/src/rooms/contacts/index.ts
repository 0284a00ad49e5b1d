import { opened } from "../../ui";

export type { ContactsPlace } from "./place";

export const ImportPage = opened(() => import("./ImportPage"), "ImportPage");
export const ContactsPage = opened(() => import("./ContactsPage"), "ContactsPage");
export const DuplicatesPage = opened(() => import("./DuplicatesPage"), "DuplicatesPage");
export const RecordPage = opened(() => import("./RecordPage"), "RecordPage");
export const SourcePage = opened(() => import("./SourcePage"), "SourcePage");
export const SuppressionPage = opened(() => import("./SuppressionPage"), "SuppressionPage");
