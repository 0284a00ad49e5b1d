import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, renew, type Schemas, sendFile, take } from "../../api";

export type ImportView = Schemas["ImportView"];
export type Look = Schemas["ImportPreviewAsk"];

const underWay = (view: ImportView | undefined) => view?.state === "reading" || view?.state === "writing";

/** One import from the file to its undo; what takes long is asked after until it is done. */
export function useImport(id: number | undefined, onImport: (id: number | undefined) => void) {
  const queries = useQueryClient();
  const [held, setView] = useState<ImportView>();
  const view = id !== undefined && held?.id === id ? held : undefined;
  const path = { params: { path: { import_id: id ?? 0 } } };
  const later = useQuery({
    queryKey: ["import", id],
    queryFn: () => take(client.GET("/api/imports/{import_id}", path)),
    enabled: id !== undefined && (view === undefined || underWay(view)),
    refetchInterval: (query) => (underWay(query.state.data) ? 700 : false),
    retry: false,
    gcTime: 0,
  });
  useEffect(() => {
    if (later.data && later.data.id === id && (view === undefined || underWay(view))) setView(later.data);
  }, [later.data, view, id]);
  function begun(next: ImportView) {
    setView(next);
    onImport(next.id);
  }
  const done = view?.state === "written";
  useEffect(() => {
    if (done) void renew(queries, { predicate: (query) => query.queryKey[0] !== "import" });
  }, [done, queries]);
  const file = useMutation({
    mutationFn: (chosen: File) => sendFile<ImportView>("/api/imports", chosen),
    onSuccess: begun,
  });
  const cells = useMutation({
    mutationFn: (text: string) => take(client.POST("/api/imports/cells", { body: { text } })),
    onSuccess: begun,
  });
  const look = useMutation({
    mutationFn: (body: Look) => take(client.POST("/api/imports/{import_id}/preview", { ...path, body })),
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
    onImport(undefined);
    for (const one of [file, cells, look, write]) one.reset();
  }
  const fault =
    file.error ??
    cells.error ??
    later.error ??
    look.error ??
    write.error ??
    (view?.fault ? new Error(view.fault) : null);
  const busy = file.isPending || cells.isPending || look.isPending || underWay(view);
  return { view, file, cells, look, write, discard, begin, fault, busy };
}
