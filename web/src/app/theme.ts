import { createTheme, type MantineColorsTuple } from "@mantine/core";
import type { MouseEvent } from "react";

/** The garnet's own green, light to deep. */
const garnet: MantineColorsTuple = [
  "#e2f0e8",
  "#c6e2d3",
  "#9fcfb8",
  "#72ba99",
  "#48a67c",
  "#2f8f66",
  "#1b7350",
  "#165f42",
  "#124b35",
  "#0f3226",
];

/** The dark scheme's greys, with a little of the green in them; light to dark. */
const dark: MantineColorsTuple = [
  "#eaf0ec",
  "#b4c1b9",
  "#97a59d",
  "#7b8a82",
  "#45524b",
  "#2f3b35",
  "#212c26",
  "#18211c",
  "#131a16",
  "#0e1411",
];

export const theme = createTheme({
  colors: { garnet, dark },
  primaryColor: "garnet",
  primaryShade: 6,
  fontFamily: "var(--type)",
  fontFamilyMonospace: "var(--mono)",
  fontSizes: { xs: "12px", sm: "13.5px", md: "14px", lg: "16px", xl: "20px" },
  lineHeights: { md: "1.45" },
  defaultRadius: 4,
  components: {
    Button: {
      defaultProps: { size: "xs", variant: "default" },
      styles: { label: { fontSize: 13.5, fontWeight: 600 } },
    },
    TextInput: { defaultProps: { size: "sm" } },
    Select: { defaultProps: { size: "sm", allowDeselect: false } },
    Tooltip: { defaultProps: { openDelay: 300 } },
    Modal: {
      defaultProps: {
        centered: true,
        // A click beside a dialog loses nothing that is typed there, nor its focus: it may be half a double click.
        overlayProps: {
          backgroundOpacity: 0.35,
          onMouseDown: (event: MouseEvent) => event.preventDefault(),
        },
        closeOnClickOutside: false,
      },
    },
  },
});
