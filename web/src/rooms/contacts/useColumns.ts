import { useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { vocabularyQuery } from "../../api";
import { type Column, type ColumnKind, columnKinds, firstColumns, knownColumns } from "../../core/table";

/** The table's columns as they were left on this machine, and what there is to choose from. */
export function useColumns(): {
  columns: Column[];
  kinds: ColumnKind[];
  setColumns: (columns: Column[]) => void;
} {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [kept, setColumns] = useLocalStorage<Column[] | null>({
    key: "uvarovite contact columns",
    defaultValue: null,
    getInitialValueInEffect: false,
  });
  return useMemo(() => {
    const fields = vocabulary?.fields ?? [];
    const kinds = columnKinds(fields);
    return { columns: kept ? knownColumns(kept, kinds) : firstColumns(fields), kinds, setColumns };
  }, [vocabulary, kept, setColumns]);
}
