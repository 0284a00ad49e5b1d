import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import classes from "./Letter.module.css";
import { guarded } from "./letterGuard";

const MARKS = `
.inlay{border-bottom:2px dotted #2fa574;background:linear-gradient(#0000 60%,#e2f0e8 60%)}
.inlay.fallback{border-bottom-color:#8a5a0a;background:linear-gradient(#0000 60%,#fbf1dc 60%)}
body{overflow:hidden}
[data-part]{cursor:pointer}
[data-here]{outline:2px solid #1b7350;outline-offset:2px}`;
/** On dark paper the words are light, and so the ground behind a value is dark. */
const MARKS_IN_THE_DARK = `
.inlay{background:linear-gradient(#0000 60%,#1d4634 60%)}
.inlay.fallback{border-bottom-color:#e2b457;background:linear-gradient(#0000 60%,#4a3a14 60%)}
[data-here]{outline-color:#4fbf8b}`;
/** The letter's own style for the dark holds for whoever looks in the dark here, whatever this machine is set to. */
const DARK_STYLE = "@media (prefers-color-scheme:dark)";

interface LetterProps {
  /** The message's HTML; it runs no script and fetches nothing. */
  html: string;
  /** The width of a telephone. */
  narrow?: boolean;
  /** As a mail program in dark mode would turn it. */
  dark?: boolean;
  /** What the frame is called, for those who do not see it. */
  title: string;
  /** Where the caret is in the words: what is made of the inlay there is shown. */
  caret?: Caret | undefined;
  /** Somebody clicked what is the reader's own: where it stands in the words. */
  onPlace?: ((place: LetterPlace) => void) | undefined;
}

/** Where words of a letter were written: a part of the message, and signs of its text. */
export interface LetterPlace {
  part: string;
  start: number;
  end: number;
}

/** A place in the words: a part of the message, and a sign of its text. */
export interface Caret {
  part: string;
  sign: number;
}

/** A message as its reader sees it, in a frame that cannot act. */
export function Letter({ html, narrow = false, dark = false, title, caret, onPlace }: LetterProps) {
  const frame = useRef<HTMLIFrameElement>(null);
  const [height, setHeight] = useState(360);
  const measure = useCallback(() => {
    const body = frame.current?.contentDocument?.body;
    if (body) setHeight(Math.max(160, body.scrollHeight + 4));
  }, []);
  // A new letter has another height once it is there, and another width at once.
  useEffect(() => {
    const element = frame.current;
    element?.addEventListener("load", measure);
    return () => element?.removeEventListener("load", measure);
  }, [measure]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another width is another height
  useEffect(measure, [measure, narrow]);
  const shown = useMemo(
    () =>
      `<style>${MARKS}${dark ? MARKS_IN_THE_DARK : ""}</style>${guarded(html).replace(DARK_STYLE, dark ? "@media all" : "@media not all")}`,
    [html, dark],
  );
  const go = useRef(onPlace);
  go.current = onPlace;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another letter is another document
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const press = (event: Event) => {
      const place = placeOf(event.target);
      if (place) go.current?.(place);
    };
    let listened: Document | null = null;
    const listen = () => {
      listened = element.contentDocument;
      listened?.addEventListener("click", press);
    };
    element.addEventListener("load", listen);
    return () => {
      element.removeEventListener("load", listen);
      listened?.removeEventListener("click", press);
    };
  }, [html, narrow, dark]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another letter is another document
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const show = () => showCaret(element, caret);
    element.addEventListener("load", show);
    show();
    return () => element.removeEventListener("load", show);
  }, [html, narrow, dark, caret]);
  return (
    <iframe
      ref={frame}
      className={classes.letter}
      data-narrow={narrow || undefined}
      style={{ height }}
      title={title}
      // Same origin without scripts: its height can be read, and nothing in it can run.
      sandbox="allow-same-origin"
      srcDoc={shown}
    />
  );
}

/** What is made of the inlay at the caret stands out, and is brought into sight where the lens scrolls by itself. */
function showCaret(frame: HTMLIFrameElement, caret: Caret | undefined): void {
  const there = [...(frame.contentDocument?.querySelectorAll("[data-part]") ?? [])].filter((one) => {
    const place = placeOf(one);
    const is = !!caret && place?.part === caret.part && place.start <= caret.sign && caret.sign <= place.end;
    one.toggleAttribute("data-here", is);
    return is;
  });
  const [first] = there;
  const lens = frame.closest("aside");
  if (!first || !lens || lens.scrollHeight <= lens.clientHeight) return;
  const seat = first.getBoundingClientRect();
  const top = frame.getBoundingClientRect().top + seat.top - lens.getBoundingClientRect().top;
  if (top >= 0 && top + seat.height <= lens.clientHeight) return;
  lens.scrollBy({ top: top - lens.clientHeight / 3 });
}

/** Where the words were written that somebody clicked; the frame's elements are of another world than ours. */
function placeOf(target: EventTarget | null): LetterPlace | undefined {
  const element = target && "closest" in target ? (target as Element).closest("[data-part]") : null;
  const part = element?.getAttribute("data-part");
  if (!element || !part) return undefined;
  return {
    part,
    start: Number(element.getAttribute("data-from")),
    end: Number(element.getAttribute("data-to")),
  };
}
