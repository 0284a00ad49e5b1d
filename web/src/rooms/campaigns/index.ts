import { opened } from "../../ui";

export { campaignsQuery } from "./queries";

export const CampaignPage = opened(() => import("./CampaignPage"), "CampaignPage");
export const CampaignsPage = opened(() => import("./CampaignsPage"), "CampaignsPage");
