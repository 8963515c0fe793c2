/** Where the focus goes when what had it has gone. */

/** Gives the focus to the first that is there of what some selectors say, once the page has been drawn anew. */
export function focusNext(...selectors: string[]): void {
  requestAnimationFrame(() => {
    const found = selectors.map((css) => document.querySelector<HTMLElement>(css)).find((element) => element !== null);
    found?.focus();
  });
}
