import { MantineProvider } from "@mantine/core";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render as draw } from "@testing-library/react";
import type { ReactNode } from "react";
import { vi } from "vitest";
import { Announcer, useSaid } from "../shared/Announcer";
import { network } from "./setup";

/** What the line of news says, for tests to read. */
function Heard() {
  return <output>{useSaid().said?.text}</output>;
}

/** Draws a part of a page with all that stands around one. */
export function Around({ children }: { children: ReactNode }) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return (
    <MantineProvider env="test">
      <QueryClientProvider client={client}>
        <Announcer>
          <Heard />
          {children}
        </Announcer>
      </QueryClientProvider>
    </MantineProvider>
  );
}
export const render = (part: ReactNode) => draw(part, { wrapper: Around });

/** What a browser has and the tests' one lacks. */
export function likeABrowser() {
  vi.stubGlobal("matchMedia", () => ({
    matches: false,
    addEventListener() {},
    removeEventListener() {},
  }));
  Object.defineProperty(document, "fonts", {
    value: { addEventListener() {}, removeEventListener() {} },
    configurable: true,
  });
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
}

export type Asked = { method: string; path: string; body: unknown };

/** A server that answers by what it is given, and remembers what it was asked. */
export function server(answer: (asked: Asked) => { status: number; body?: unknown }): Asked[] {
  const asked: Asked[] = [];
  network.answer = async (r) => {
    const text = await r.text();
    const call = {
      method: r.method,
      path: new URL(r.url).pathname,
      body: text ? (JSON.parse(text) as unknown) : undefined,
    };
    asked.push(call);
    const { status, body } = answer(call);
    return new Response(body === undefined ? null : JSON.stringify(body), {
      status,
      headers: { "Content-Type": "application/json" },
    });
  };
  return asked;
}
