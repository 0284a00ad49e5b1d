import { guarded } from "./letterGuard";
import classes from "./SmallLetter.module.css";

/** A letter so small that one sees its shape: a picture, which nobody reads or clicks. */
export function SmallLetter({ html, height = 168 }: { html: string; height?: number }) {
  return (
    <span className={classes.small} style={{ height }} aria-hidden="true">
      {html && (
        <iframe
          title="A small letter"
          tabIndex={-1}
          sandbox=""
          loading="lazy"
          srcDoc={`<style>body{overflow:hidden}</style>${guarded(html)}`}
        />
      )}
    </span>
  );
}
