import { opened } from "../../ui";

export type { ResponsesPlace } from "./groups";

export const ResponsesPage = opened(() => import("./ResponsesPage"), "ResponsesPage");
