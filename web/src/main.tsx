import "@mantine/core/styles.css";
import "@mantine/notifications/styles.css";
import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "./app/theme.css";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";

const root = document.getElementById("root");
if (root) createRoot(root).render(<App />);

// A page whose part is not on the server any more was built before the server was renewed: it is loaded anew, once.
window.addEventListener("vite:preloadError", (event) => {
  if (sessionStorage.getItem("renewed") === import.meta.url) return;
  sessionStorage.setItem("renewed", import.meta.url);
  event.preventDefault();
  window.location.reload();
});
