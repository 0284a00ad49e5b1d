import { Button, Textarea } from "@mantine/core";
import { type DragEvent, useRef, useState } from "react";
import classes from "./DropPlace.module.css";

interface DropPlaceProps {
  busy: boolean;
  onFile: (file: File) => void;
  onCells: (text: string) => void;
}

/** Where a file is dropped or chosen, or cells are pasted. */
export function DropPlace({ busy, onFile, onCells }: DropPlaceProps) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [cells, setCells] = useState("");
  function drop(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    const file = event.dataTransfer.files[0];
    if (file) onFile(file);
  }
  return (
    <>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping is an addition; the button does the same */}
      <div
        className={classes.drop}
        data-over={over || undefined}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={drop}
      >
        <h2>Drop a file here</h2>
        <p className="soft">
          You will see what is new, changed and refused before anything is written. A row needs an e-mail
          address or a contact number.
        </p>
        <Button variant="filled" size="sm" loading={busy} onClick={() => input.current?.click()}>
          Choose a file
        </Button>
        <input
          ref={input}
          type="file"
          accept=".csv,.tsv,.txt,.xlsx,.xls,.ods,.vcf,text/csv"
          hidden
          aria-label="Contact file"
          onChange={(event) => {
            const file = event.currentTarget.files?.[0];
            if (file) onFile(file);
            event.currentTarget.value = "";
          }}
        />
      </div>
      <Textarea
        label="Or paste cells"
        description="With column names in the first line, as copied from a spreadsheet"
        classNames={{ input: classes.cells ?? "" }}
        autosize
        minRows={2}
        maxRows={8}
        value={cells}
        onChange={(event) => setCells(event.currentTarget.value)}
      />
      {cells.trim() && (
        <Button className={classes.look ?? ""} variant="filled" loading={busy} onClick={() => onCells(cells)}>
          Preview these cells
        </Button>
      )}
    </>
  );
}
