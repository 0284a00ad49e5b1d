import { opened } from "../../ui";

export { Lens } from "./parts/Lens";
export { MessageEditor } from "./parts/MessageEditor";
export { messageQuery, messagesQuery } from "./queries";
export { useMessageDraft } from "./useMessageDraft";

export const MessagePage = opened(() => import("./MessagePage"), "MessagePage");
export const MessagesPage = opened(() => import("./MessagesPage"), "MessagesPage");
