import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { ApiProblem } from "../api";
import { router } from "./router";
import { theme } from "./theme";

const queries = new QueryClient({
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false } },
  queryCache: new QueryCache({
    onError: (fault) => {
      const here = window.location.pathname;
      if (
        fault instanceof ApiProblem &&
        fault.status === 401 &&
        here !== "/sign-in" &&
        here !== "/enter" &&
        here !== "/join"
      ) {
        router.navigate({ to: "/sign-in", search: { back: here + window.location.search } });
      }
    },
  }),
});

/** Everything, in the order in which it depends on each other. */
export function App() {
  return (
    <MantineProvider theme={theme} defaultColorScheme="auto">
      <Notifications position="bottom-left" />
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </MantineProvider>
  );
}
