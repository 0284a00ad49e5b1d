export type { AuditPlace } from "./parts/AuditPart";
export { FieldDialog } from "./parts/FieldDialog";
export { SetupPage } from "./SetupPage";
