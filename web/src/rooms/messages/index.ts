export { MessagePage } from "./MessagePage";
export { MessagesPage } from "./MessagesPage";
export { Lens } from "./parts/Lens";
export { MessageEditor } from "./parts/MessageEditor";
export { messageQuery, messagesQuery } from "./queries";
export { useMessageDraft } from "./useMessageDraft";
