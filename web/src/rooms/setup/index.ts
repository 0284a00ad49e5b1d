export { SetupPage } from "./SetupPage";
