import { opened } from "../../ui";

export { deskQuery } from "./queries";

export const DeskPage = opened(() => import("./DeskPage"), "DeskPage");
