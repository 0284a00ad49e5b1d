import { type ComponentType, lazy } from "react";

/** A page that is loaded when it is opened. */
export function opened<Module, Name extends keyof Module>(load: () => Promise<Module>, name: Name) {
  // biome-ignore lint/suspicious/noExplicitAny: what a page takes, its route knows
  type Page = Module[Name] extends ComponentType<any> ? Module[Name] : never;
  return lazy(async () => ({ default: (await load())[name] as Page }));
}
