import { Button, FileButton, Popover } from "@mantine/core";
import {
  type QueryKey,
  type UseQueryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { renew, sendFile, wordsOf } from "../../../api";
import { Trouble } from "../../../ui";
import classes from "./UploadChooser.module.css";

interface UploadChooserProps<Kept> {
  /** Where it is sent. */
  to: string;
  words: string;
  accept?: string;
  /** What was uploaded before. */
  // biome-ignore lint/suspicious/noExplicitAny: the key of the query is its own
  before: UseQueryOptions<Kept[], Error, Kept[], any> & { queryKey: QueryKey };
  keyOf: (kept: Kept) => string;
  show: (kept: Kept) => ReactNode;
  onChosen: (kept: Kept) => void;
}

/** Upload something, or take what was uploaded before. */
export function UploadChooser<Kept>(props: UploadChooserProps<Kept>) {
  const { to, words, accept, before, keyOf, show, onChosen } = props;
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const { data: kept } = useQuery({ ...before, enabled: open });
  const upload = useMutation({
    mutationFn: (file: File) => sendFile<Kept>(to, file),
    onSuccess: (made) => {
      void renew(queries, { queryKey: before.queryKey });
      onChosen(made);
    },
  });
  return (
    <>
      <FileButton {...(accept && { accept })} onChange={(file) => file && upload.mutate(file)}>
        {(button) => (
          <Button {...button} size="compact-sm" variant="light" loading={upload.isPending}>
            {words}
          </Button>
        )}
      </FileButton>
      <Popover
        opened={open}
        onChange={setOpen}
        position="bottom-start"
        width={420}
        shadow="md"
        trapFocus
        returnFocus
      >
        <Popover.Target>
          <Button size="compact-sm" onClick={() => setOpen(!open)}>
            Uploaded before
          </Button>
        </Popover.Target>
        <Popover.Dropdown>
          {kept?.length === 0 && <p className="soft">None yet.</p>}
          <ul className={classes.list}>
            {kept?.map((one) => (
              <li key={keyOf(one)}>
                <button
                  type="button"
                  className={classes.one}
                  onClick={() => {
                    onChosen(one);
                    setOpen(false);
                  }}
                >
                  {show(one)}
                </button>
              </li>
            ))}
          </ul>
        </Popover.Dropdown>
      </Popover>
      {upload.error && <Trouble>{wordsOf(upload.error)}</Trouble>}
    </>
  );
}
