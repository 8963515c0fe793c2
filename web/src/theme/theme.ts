import { createTheme, type MantineColorsTuple } from "@mantine/core";

/** Ten shades around the colour of the processed signal, for Mantine's components. */
const plum: MantineColorsTuple = [
  "#fbf0f6", "#f0dce7", "#dfb5cc", "#cf8cb0", "#c06899", "#b65189", "#a23c75", "#8a2f62", "#742652", "#5e1c42",
];

export const theme = createTheme({
  colors: { plum },
  primaryColor: "plum",
  primaryShade: { light: 7, dark: 5 },
  fontFamily: "var(--text)",
  fontFamilyMonospace: "var(--mono)",
  white: "#fbf8f2",
  black: "#24211c",
  defaultRadius: "md",
  headings: { fontFamily: "var(--text)", fontWeight: "650" },
  respectReducedMotion: true,
});

/** A colour of the page's tokens, for canvas, which knows no variables. */
export function token(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
}
