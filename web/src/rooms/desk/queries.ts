import { queryOptions } from "@tanstack/react-query";
import { client, take } from "../../api";

export const deskQuery = queryOptions({
  queryKey: ["desk"],
  queryFn: () => take(client.GET("/api/desk")),
});
