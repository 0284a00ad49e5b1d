import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, renew, take, wordsOf } from "../../../../api";
import { people } from "../../../../core/words";
import { announce, ConfirmButton } from "../../../../ui";

/** Take a whole import back; asked once more, since it touches many. */
export function UndoImport({ id, undone, size }: { id: number; undone: boolean; size?: string }) {
  const queries = useQueryClient();
  const undo = useMutation({
    mutationFn: () =>
      take(client.POST("/api/imports/{import_id}/undo", { params: { path: { import_id: id } } })),
    onSuccess: (done) => {
      void renew(queries);
      const kept = done.kept > 0 ? ` ${people(done.kept)} changed since and stay.` : "";
      announce(`Taken back: ${people(done.removed)} removed, ${people(done.restored)} as before.${kept}`, {
        stays: 12_000,
      });
    },
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
  if (undone || undo.isSuccess) return <span className="soft">undone</span>;
  return <ConfirmButton size={size} words="Undo…" yes="Yes, undo this import" onYes={undo.mutateAsync} />;
}
