export { BringInPage } from "./BringInPage";
export { ContactsPage } from "./ContactsPage";
