/**
 * One job opened as the application opens it, against a server that answers what the real one
 * answered.
 */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import { readFileSync } from "node:fs";
import { MemoryRouter, Route, Routes, useParams } from "react-router";
import { afterEach, beforeEach, vi } from "vitest";
import type { Account, Choices, Job, Library, PackedReport } from "../src/api/client";
import { fetchAll } from "../src/shell/later";
import { Workbench } from "../src/shell/Workbench";
import { STAGES } from "../src/stages/registry";

interface Packed {
  id: string;
  version: number;
  revision: number;
  saved_at: string;
  saved_by: string;
  job: Job;
  library: Library;
  report: PackedReport;
}

interface Answers {
  view: Packed;
  workings: unknown[];
  choices: Choices;
  company: Library;
}

/** Kept true by the server's own tests. */
export const answers = (): Answers =>
  JSON.parse(readFileSync("tests/data/answers.json", "utf8")) as Answers;

export interface Asked {
  method: string;
  path: string;
  query: URLSearchParams;
  body: Record<string, unknown>;
}

export type Handler = (asked: Asked) => Response | undefined;

export const json = (body: unknown, status = 200): Response =>
  new Response(JSON.stringify(body), {
    status,
    headers: { "content-type": "application/json" },
  });

/** Every call that was made, in order. */
export let calls: Asked[] = [];
let handlers: Handler[] = [];

/** Answers before the usual ones do. */
export const answering = (handler: Handler): void => {
  handlers.unshift(handler);
};

const usual: Handler = ({ method, path, body }) => {
  const { view, workings, choices, company } = answers();
  if (path.endsWith("/workings")) return json(workings);
  if (path.endsWith("/watch")) return json([]);
  if (path.endsWith("/revisions")) return json([]);
  if (path.startsWith("/api/choices/")) return json(choices);
  if (path === "/api/library") return json(company);
  if (path === "/api/shown") return json({ own: {}, company: {} });
  if (path.endsWith("/guests")) return json({ seats: [], links: [] });
  if (path === "/api/jobs/kestrel" && method === "GET") return json(view);
  if (path === "/api/jobs/kestrel" && method === "PUT") {
    const { saved_at, saved_by, report } = view;
    const revision = (body["base_revision"] as number) + 1;
    return json({ revision, saved_at, saved_by, report });
  }
  return undefined;
};

class Quiet {
  close(): void {
    // Nothing is heard from the server.
  }
}

beforeEach(() => {
  calls = [];
  handlers = [usual];
  localStorage.clear();
  vi.stubGlobal("EventSource", Quiet);
  vi.stubGlobal("fetch", async (request: Request) => {
    const url = new URL(request.url);
    const text = await request.text();
    const asked: Asked = {
      method: request.method,
      path: url.pathname,
      query: url.searchParams,
      body: text ? (JSON.parse(text) as Record<string, unknown>) : {},
    };
    calls.push(asked);
    for (const handler of handlers) {
      const answer = handler(asked);
      if (answer) return answer;
    }
    return json({ type: "/problems/none", title: `nothing answers ${asked.path}` }, 404);
  });
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const account = (role: Account["role"]): Account =>
  ({ id: "a", sign_in: "tomas", name: "Tomas", role }) as Account;

function OneJob({ role }: { role: Account["role"] }) {
  const { id = "" } = useParams();
  return <Workbench id={id} account={account(role)} stages={STAGES} />;
}

/** Opens a stage of the demo job, as who plans it unless said otherwise. */
export async function opened(path: string, role: Account["role"] = "owner"): Promise<void> {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  // As after a moment on the first screen.
  await fetchAll();
  render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[`/jobs/kestrel/${path}`]}>
        <Routes>
          <Route path="/jobs/:id/:stage" element={<OneJob role={role} />} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await screen.findByRole("navigation", { name: "Stages of the job" });
}
