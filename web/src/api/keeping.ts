/** What lies between an editor and the server: faults as a keeper knows them, and what this browser holds for a while. */
import { type After, Collision, type Kept, Refused, SignedOut, type Unkept } from "../core/drafts";
import { ApiProblem } from "./problems";

/** Ask, and tell a keeper's faults apart; `read` makes theirs of a conflict into what is edited. */
export async function asked<T, Doc>(ask: Promise<T>, read: (theirs: never) => Kept<Doc>): Promise<T> {
  try {
    return await ask;
  } catch (fault) {
    if (!(fault instanceof ApiProblem)) throw fault;
    if (fault.status === 409 && fault.theirs) throw new Collision(read(fault.theirs as never), fault.message);
    if (fault.status === 401) throw new SignedOut(fault.message);
    const again = fault.status === 0 || fault.status === 429 || fault.status >= 500;
    throw again ? fault : new Refused(fault.message, fault.field);
  }
}

export const after: After = (milliseconds, act) => {
  const timer = window.setTimeout(act, milliseconds);
  return () => window.clearTimeout(timer);
};

const PLACE = "uvarovite draft ";

/** What was written here and did not get to the server, for one user and one thing. */
export function mirrorAt(user: string, kind: string, id: number) {
  const place = `${PLACE}${user} ${kind} ${id}`;
  return {
    read<Doc>(): Unkept<Doc> | undefined {
      try {
        return (JSON.parse(localStorage.getItem(place) ?? "null") as Unkept<Doc> | null) ?? undefined;
      } catch {
        return undefined;
      }
    },
    write(draft: Unkept<unknown> | undefined): void {
      try {
        if (draft) localStorage.setItem(place, JSON.stringify(draft));
        else localStorage.removeItem(place);
      } catch {
        // A full or forbidden store: the server has it a moment later.
      }
    },
  };
}

/** Whoever signs out leaves nothing of what they wrote behind. */
export function clearMirrors(): void {
  for (const place of Object.keys(localStorage)) {
    if (place.startsWith(PLACE)) localStorage.removeItem(place);
  }
}

const open = new Set<() => Promise<void>>();

/** An editor is open: what it has not sent yet goes when the server may be reached again, and before a sign-out. */
export function keepOpen(flush: () => Promise<void>): () => void {
  const again = () => void flush();
  open.add(flush);
  window.addEventListener("online", again);
  return () => {
    open.delete(flush);
    window.removeEventListener("online", again);
  };
}

/** Send what is not sent yet, of every open editor. */
export async function flushOpen(): Promise<void> {
  await Promise.all([...open].map((flush) => flush()));
}
