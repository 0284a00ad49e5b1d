export { CampaignPage } from "./CampaignPage";
export { CampaignsPage } from "./CampaignsPage";
export { campaignsQuery } from "./queries";
