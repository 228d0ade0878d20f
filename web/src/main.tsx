import "@fontsource-variable/archivo/wdth.css";
import "@fontsource/ibm-plex-mono/latin-400.css";
import "@fontsource/ibm-plex-mono/latin-500.css";
import "@mantine/core/styles.css";
import "./styles.css";
import { MantineProvider } from "@mantine/core";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { Announcer } from "./shared/Announcer";
import { keepPage } from "./shared/drop";
import { theme, variables } from "./theme";

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 2000 } } });

keepPage();
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <Announcer>
            <App />
          </Announcer>
        </BrowserRouter>
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
