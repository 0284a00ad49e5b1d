import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, renew, take, wordsOf } from "../../../api";
import { people } from "../../../core/words";

/** Take a whole import back; asked once more, since it touches many. */
export function UndoImport({ id, undone }: { id: number; undone: boolean }) {
  const queries = useQueryClient();
  const [sure, setSure] = useState(false);
  const undo = useMutation({
    mutationFn: () =>
      take(client.POST("/api/imports/{import_id}/undo", { params: { path: { import_id: id } } })),
    onSuccess: (done) => {
      void renew(queries);
      const kept = done.kept > 0 ? ` ${people(done.kept)} changed since and stay.` : "";
      notifications.show({
        message: `Taken back: ${people(done.removed)} removed, ${people(done.restored)} as before.${kept}`,
        autoClose: 12_000,
      });
    },
    onError: (fault) => notifications.show({ message: wordsOf(fault), color: "red" }),
  });
  if (undone || undo.isSuccess) return <span className="soft">undone</span>;
  return sure ? (
    <Button
      size="compact-sm"
      variant="filled"
      color="red.9"
      loading={undo.isPending}
      onClick={() => undo.mutate()}
    >
      Yes, undo this import
    </Button>
  ) : (
    <Button size="compact-sm" onClick={() => setSure(true)}>
      Undo…
    </Button>
  );
}
