import { opened } from "../../ui";

export { Comments, type PointedBlock } from "./parts/Comments";
export { Lens } from "./parts/Lens";
export { MessageEditor } from "./parts/MessageEditor";
export { TestAnswer } from "./parts/TestAnswer";
export { TestTo } from "./parts/TestTo";
export { messageQuery, messagesQuery } from "./queries";
export { useBesideLens } from "./useBesideLens";
export { useMessageDraft } from "./useMessageDraft";
export { useTestSends } from "./useTestSends";
export { PictureChooser } from "./writing/PictureChooser";

export const MessagePage = opened(() => import("./MessagePage"), "MessagePage");
export const MessagesPage = opened(() => import("./MessagesPage"), "MessagesPage");
