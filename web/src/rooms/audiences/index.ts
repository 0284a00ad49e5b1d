import { opened } from "../../ui";

export { Clearance } from "./parts/Clearance";
export { CriteriaEditor } from "./parts/CriteriaEditor";
export { CriteriaFault } from "./parts/CriteriaFault";
export { CriteriaText } from "./parts/CriteriaText";
export { audiencesQuery } from "./queries";
export { type AudienceDoc, useAudienceDraft, useDraftText } from "./useAudienceDraft";
export { useCriteria } from "./useCriteria";

export const AudiencePage = opened(() => import("./AudiencePage"), "AudiencePage");
export const AudiencesPage = opened(() => import("./AudiencesPage"), "AudiencesPage");
