import { opened } from "../../ui";

export type { AuditPlace } from "./parts/AuditPart";
export { FieldDialog } from "./parts/FieldDialog";

export const SetupPage = opened(() => import("./SetupPage"), "SetupPage");
