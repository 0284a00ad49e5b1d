export { client, fetchFile, rememberCsrf, type Schemas, sendFile, take } from "./client";
export { ApiProblem, wordsOf } from "./problems";
export { meQuery, useWords, vocabularyQuery } from "./session";
