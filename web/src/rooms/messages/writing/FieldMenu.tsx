import { memo, useSyncExternalStore } from "react";
import { createPortal } from "react-dom";
import { count } from "../../../core/words";
import classes from "./FieldMenu.module.css";
import type { PickerStore } from "./fieldSearch";

/** The fields that can be inserted, at the caret: label, kind, sample values, and how many people have none. */
export const FieldMenu = memo(function FieldMenu({ store }: { store: PickerStore }) {
  const picking = useSyncExternalStore(store.subscribe, store.snapshot);
  if (!picking?.at || picking.options.length === 0) return null;
  const { at, options, chosen } = picking;
  const below = at.bottom + 330 < window.innerHeight || at.top < 330;
  return createPortal(
    <div
      className={classes.menu}
      role="listbox"
      aria-label="Field to insert"
      style={{
        left: Math.max(8, Math.min(at.left, window.innerWidth - 470)),
        ...(below ? { top: at.bottom + 4 } : { bottom: window.innerHeight - at.top + 4 }),
      }}
    >
      {options.map((option, index) => (
        <div
          key={option.source}
          role="option"
          tabIndex={-1}
          aria-selected={index === chosen}
          className={classes.option}
          ref={index === chosen ? (seen) => seen?.scrollIntoView({ block: "nearest" }) : undefined}
          onMouseDown={(event) => {
            event.preventDefault();
            picking.take(option);
          }}
        >
          <b>{option.label}</b>
          <span className="soft">
            {option.samples.map((one) => one.slice(0, 24)).join(", ") || option.about}
          </span>
          {option.blank !== undefined && (
            <span className={option.blank ? classes.blank : "faint"}>
              {option.blank ? `${count(option.blank)} blank` : "all have it"}
            </span>
          )}
        </div>
      ))}
      <div className={classes.keys}>
        <kbd>↑</kbd> <kbd>↓</kbd> choose <kbd>Enter</kbd> insert <kbd>Esc</kbd> a mere @
      </div>
    </div>,
    document.body,
  );
});
