export { client, fetchFile, rememberCsrf, type Schemas, sendFile, take } from "./client";
export { after, asked, clearMirrors, flushOpen, keepOpen, mirrorAt } from "./keeping";
export { May, MayChange } from "./May";
export { ApiProblem, wordsOf } from "./problems";
export { renew } from "./renew";
export { meQuery, type Permission, useMay, useWords, vocabularyQuery } from "./session";
export { type Draft, useDraft } from "./useDraft";
