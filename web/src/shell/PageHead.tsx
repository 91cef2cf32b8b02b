/** The bar of every page outside a job: what there is, where one is, and who one is. */
import { clsx } from "clsx";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { NavLink } from "react-router";
import { api, type Account } from "../api/client";
import { showFor } from "../model/shown";
import { Brand } from "./Brand";
import { toggleTheme } from "./useTheme";

/** Pages beside the jobs, and who has them. */
const PAGES: [to: string, name: string, sees: (account: Account) => boolean][] = [
  ["/jobs", "Jobs", () => true],
  ["/library", "Data sheets", (a) => a.role !== "inspector"],
  ["/sums", "Quick sums", (a) => a.role !== "inspector"],
  ["/prices", "Prices", (a) => a.role !== "inspector"],
  ["/people", "People", (a) => a.role === "owner"],
];

const look = "grid min-h-9 items-center text-sm max-md:min-h-12";

export function PageHead({ account }: { account: Account }) {
  // Outside a job things are shown as they are kept.
  useState(() => {
    showFor(null);
  });
  const queries = useQueryClient();
  return (
    <header
      className={clsx(
        "no-print flex flex-wrap items-center gap-x-4 gap-y-1 bg-slate px-4 py-2",
        "text-slate-ink",
      )}
    >
      <Brand />
      <strong>Heliant</strong>
      <nav aria-label="Pages" className="flex flex-wrap gap-x-4">
        {PAGES.filter(([, , sees]) => sees(account)).map(([to, name]) => (
          <NavLink
            key={to}
            to={to}
            className={({ isActive }) =>
              clsx(look, isActive ? "border-b-2 border-current font-bold" : "underline")
            }
          >
            {name}
          </NavLink>
        ))}
      </nav>
      <span className="grow" />
      <NavLink to="/me" className={clsx(look, "text-slate-ink-2 underline")}>
        {account.name}, {account.role}
      </NavLink>
      <button
        type="button"
        className="min-h-9 text-sm underline max-md:min-h-12"
        onClick={toggleTheme}
      >
        Light or dusk
      </button>
      <button
        type="button"
        className="min-h-9 text-sm underline max-md:min-h-12"
        onClick={() => {
          void api.signOut().finally(() => {
            queries.clear();
            window.location.assign("/");
          });
        }}
      >
        Sign out
      </button>
    </header>
  );
}
