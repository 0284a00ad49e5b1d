export { BringInPage } from "./BringInPage";
export { ContactsPage, type ContactsPlace } from "./ContactsPage";
export { RecordPage } from "./RecordPage";
export { SuppressionPage } from "./SuppressionPage";
