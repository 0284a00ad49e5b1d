import { useEffect, useRef, useState } from "react";
import classes from "./Letter.module.css";
import { guarded } from "./letterGuard";

const MARKS = `
.inlay{border-bottom:2px dotted #2fa574;background:linear-gradient(#0000 60%,#e2f0e8 60%)}
.inlay.fallback{border-bottom-color:#8a5a0a;background:linear-gradient(#0000 60%,#fbf1dc 60%)}
body{overflow:hidden}
[data-part]{cursor:pointer}`;
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
  /** Somebody clicked what is the reader's own: where it stands in the words. */
  onPlace?: ((place: LetterPlace) => void) | undefined;
}

/** Where words of a letter were written: a part of the message, and signs of its text. */
export interface LetterPlace {
  part: string;
  start: number;
  end: number;
}

/** A message as its reader sees it, in a frame that cannot act. */
export function Letter({ html, narrow = false, dark = false, title, onPlace }: LetterProps) {
  const frame = useRef<HTMLIFrameElement>(null);
  const [height, setHeight] = useState(360);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new letter or width has another height
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const measure = () => {
      const body = element.contentDocument?.body;
      if (body) setHeight(Math.max(160, body.scrollHeight + 4));
    };
    element.addEventListener("load", measure);
    measure();
    return () => element.removeEventListener("load", measure);
  }, [html, narrow, dark]);
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
  return (
    <iframe
      ref={frame}
      className={classes.letter}
      data-narrow={narrow || undefined}
      style={{ height }}
      title={title}
      // Same origin without scripts: its height can be read, and nothing in it can run.
      sandbox="allow-same-origin"
      srcDoc={`<style>${MARKS}</style>${guarded(html).replace(DARK_STYLE, dark ? "@media all" : "@media not all")}`}
    />
  );
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
