export { AudiencePage } from "./AudiencePage";
export { AudiencesPage } from "./AudiencesPage";
export { Clearance } from "./parts/Clearance";
export { CriteriaEditor } from "./parts/CriteriaEditor";
export { CriteriaFault } from "./parts/CriteriaFault";
export { CriteriaText } from "./parts/CriteriaText";
export { audiencesQuery } from "./queries";
export { type AudienceDoc, useAudienceDraft, useDraftText } from "./useAudienceDraft";
export { useCriteria } from "./useCriteria";
