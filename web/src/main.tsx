import "@fontsource-variable/atkinson-hyperlegible-next/index.css";
import "@fontsource-variable/atkinson-hyperlegible-mono/index.css";
import "@mantine/core/styles.css";
import "./theme/tokens.css";
import "./theme/page.css";

import { MantineProvider } from "@mantine/core";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot, type Root } from "react-dom/client";

import { keepDrafts, openAddressed } from "./bench/opening";
import { startWiring } from "./bench/wiring";
import { startCore } from "./core/core";
import { sentenceOf } from "./core/faults";
import { watchFaults } from "./core/happened";
import { BenchPage } from "./page/BenchPage";
import { cssVariables, theme } from "./theme/theme";

const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content ?? "";
// Drawers and dialogs add a style element of their own while they are open.
setNonce(nonce);
const queries = new QueryClient();

async function start(root: Root): Promise<void> {
  watchFaults();
  await startCore();
  startWiring();
  keepDrafts();
  await openAddressed();
  window.addEventListener("popstate", () => void openAddressed());
  root.render(
    <StrictMode>
      <MantineProvider
        theme={theme}
        defaultColorScheme="light"
        cssVariablesResolver={cssVariables}
        getStyleNonce={() => nonce}
      >
        <QueryClientProvider client={queries}>
          <BenchPage />
        </QueryClientProvider>
      </MantineProvider>
    </StrictMode>,
  );
}

const element = document.getElementById("root");
if (element) {
  const root = createRoot(element);
  start(root).catch((error: unknown) => root.render(<p role="alert">{sentenceOf(error)}</p>));
}
