export { BringInPage } from "./BringInPage";
export { ContactsPage } from "./ContactsPage";
export { DuplicatesPage } from "./DuplicatesPage";
export type { ContactsPlace } from "./place";
export { RecordPage } from "./RecordPage";
export { SourcePage } from "./SourcePage";
export { SuppressionPage } from "./SuppressionPage";
