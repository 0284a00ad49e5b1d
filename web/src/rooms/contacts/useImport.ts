import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type Schemas, sendFile, take } from "../../api";

export type ImportView = Schemas["ImportView"];
export type Look = Schemas["ImportLook"];

const underWay = (view: ImportView | undefined) => view?.state === "reading" || view?.state === "writing";

/** One import from the file to its undo; what takes long is asked after until it is done. */
export function useImport() {
  const queries = useQueryClient();
  const [view, setView] = useState<ImportView>();
  const path = { params: { path: { import_id: view?.id ?? 0 } } };
  const later = useQuery({
    queryKey: ["import", view?.id],
    queryFn: () => take(client.GET("/api/imports/{import_id}", path)),
    enabled: underWay(view),
    refetchInterval: 700,
  });
  useEffect(() => {
    if (later.data && underWay(view)) setView(later.data);
  }, [later.data, view]);
  const done = view?.state === "written";
  useEffect(() => {
    if (done) queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "import" });
  }, [done, queries]);
  const file = useMutation({
    mutationFn: (chosen: File) => sendFile<ImportView>("/api/imports", chosen),
    onSuccess: setView,
  });
  const cells = useMutation({
    mutationFn: (text: string) => take(client.POST("/api/imports/cells", { body: { text } })),
    onSuccess: setView,
  });
  const look = useMutation({
    mutationFn: (body: Look) => take(client.POST("/api/imports/{import_id}/look", { ...path, body })),
    onSuccess: setView,
  });
  const write = useMutation({
    mutationFn: (body: Schemas["ImportWrite"]) =>
      take(client.POST("/api/imports/{import_id}/write", { ...path, body })),
    onSuccess: setView,
  });
  const discard = useMutation({
    mutationFn: () => take(client.DELETE("/api/imports/{import_id}", path)),
    onSettled: () => begin(),
  });
  function begin() {
    setView(undefined);
    for (const one of [file, cells, look, write]) one.reset();
  }
  const fault =
    file.error ?? cells.error ?? look.error ?? write.error ?? (view?.fault ? new Error(view.fault) : null);
  const busy = file.isPending || cells.isPending || look.isPending || underWay(view);
  return { view, file, cells, look, write, discard, begin, fault, busy };
}
