export { DeskPage } from "./DeskPage";
export { deskQuery } from "./queries";
