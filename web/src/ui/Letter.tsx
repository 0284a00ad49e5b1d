import { useEffect, useRef, useState } from "react";
import classes from "./Letter.module.css";

const MARKS = `
.inlay{border-bottom:2px dotted #2fa574;background:linear-gradient(#0000 60%,#e2f0e8 60%)}
.inlay.fallback{border-bottom-color:#8a5a0a;background:linear-gradient(#0000 60%,#fbf1dc 60%)}
body{overflow:hidden}`;
const DARK = "html{filter:invert(.92) hue-rotate(180deg);background:#fff}";

interface LetterProps {
  /** The message's HTML; it runs no script and fetches nothing. */
  html: string;
  /** The width of a telephone. */
  narrow?: boolean;
  /** As a mail program in dark mode would turn it. */
  dark?: boolean;
  /** What the frame is called, for those who do not see it. */
  title: string;
}

/** A message as its reader sees it, in a frame that cannot act. */
export function Letter({ html, narrow = false, dark = false, title }: LetterProps) {
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
  const guard = `<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">`;
  return (
    <iframe
      ref={frame}
      className={classes.letter}
      data-narrow={narrow || undefined}
      style={{ height }}
      title={title}
      // Same origin without scripts: its height can be read, and nothing in it can run.
      sandbox="allow-same-origin"
      srcDoc={`${guard}<style>${MARKS}${dark ? DARK : ""}</style>${html}`}
    />
  );
}
