import { createTheme, type CSSVariablesResolver, type MantineColorsTuple } from "@mantine/core";

/** Ten shades around the colour of the processed signal, for Mantine's components. */
const plum: MantineColorsTuple = [
  "#fbf0f6",
  "#f0dce7",
  "#dfb5cc",
  "#cf8cb0",
  "#c06899",
  "#b65189",
  "#a23c75",
  "#8a2f62",
  "#742652",
  "#5e1c42",
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
  components: {
    Button: { defaultProps: { variant: "filled" } },
    // The head of a dialog is not that of the page.
    DrawerHeader: { defaultProps: { role: "presentation" } },
    ModalHeader: { defaultProps: { role: "presentation" } },
    Drawer: { defaultProps: { closeButtonProps: { "aria-label": "Close" } } },
    Modal: { defaultProps: { closeButtonProps: { "aria-label": "Close" } } },
    // A menu has entries and nothing else, and stands where its button does.
    Menu: { defaultProps: { withInitialFocusPlaceholder: false, withinPortal: false } },
  },
});

/** Mantine's own colours, said in the page's tokens, which know light from dark themselves. */
const variables = {
  "--mantine-color-body": "var(--paper)",
  "--mantine-color-text": "var(--ink)",
  "--mantine-color-dimmed": "var(--mute)",
  "--mantine-color-default": "var(--paper)",
  "--mantine-color-default-hover": "var(--panel)",
  "--mantine-color-default-border": "var(--mute)",
  "--mantine-color-default-color": "var(--ink)",
  "--mantine-color-disabled": "var(--panel)",
  "--mantine-color-disabled-color": "var(--mute)",
  "--mantine-color-disabled-border": "var(--rule)",
  "--mantine-color-dark-filled": "var(--ink)",
  "--mantine-color-dark-filled-hover": "var(--mute)",
  "--mantine-color-dark-light-color": "var(--ink)",
  "--mantine-color-dark-text": "var(--ink)",
  "--mantine-line-height": "1.4",
};

export const cssVariables: CSSVariablesResolver = () => ({ variables: {}, light: variables, dark: variables });

/** Colours that have been read, by scheme and name: reading one makes the browser compute all styles anew. */
const read = new Map<string, string>();

/** A colour of the page's tokens, for canvas, which knows no variables. */
export function token(name: string): string {
  const root = document.documentElement;
  const key = `${root.getAttribute("data-mantine-color-scheme")} ${name}`;
  const known = read.get(key) ?? getComputedStyle(root).getPropertyValue(`--${name}`).trim();
  if (known !== "") read.set(key, known);
  return known;
}
