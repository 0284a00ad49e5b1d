import { MantineProvider } from "@mantine/core";
import { cleanup, render } from "@testing-library/react";
import { type ReactNode, useState } from "react";
import { afterEach } from "vitest";

afterEach(cleanup);

/** Put a part on a screen of its own. */
export function show(node: ReactNode) {
  return render(<MantineProvider env="test">{node}</MantineProvider>);
}

/** A part with the value that it edits; `latest()` is what it made of it, `edits` everything on the way. */
export function showEditing<T>(first: T, part: (value: T, onValue: (next: T) => void) => ReactNode) {
  const edits: T[] = [];
  function Holder() {
    const [value, setValue] = useState(first);
    return part(value, (next) => {
      edits.push(next);
      setValue(next);
    });
  }
  show(<Holder />);
  return { edits, latest: () => edits.at(-1) ?? first };
}
