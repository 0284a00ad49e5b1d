export { FieldDialog } from "./parts/FieldDialog";
export { SetupPage } from "./SetupPage";
