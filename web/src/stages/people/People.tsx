/** Who may sign in, and as what; for the owner. */
import { clsx } from "clsx";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, Refused, type Account, type Problem, type Role } from "../../api/client";
import { ROLES } from "../../text/words";
import { Button } from "../../ui/Button";
import { inputLook, problemAt } from "../../ui/field";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";

const OPTIONS = Object.entries(ROLES);

export function People({ account }: { account: Account }) {
  const people = useQuery({ queryKey: ["accounts"], queryFn: api.accounts });
  const queries = useQueryClient();
  const [said, setSaid] = useState<string | null>(null);
  const change = async (who: Account, role: Role, disabled: boolean) => {
    setSaid(null);
    try {
      await api.changeAccount(who.id, { role, disabled });
    } catch (error) {
      setSaid(
        error instanceof Refused
          ? `${error.message}. ${error.detail}`
          : "The server does not answer. Nothing was changed.",
      );
    }
    await queries.invalidateQueries({ queryKey: ["accounts"] });
  };
  return (
    <main className="mx-auto max-w-3xl p-4">
      <Link to="/jobs" className="text-sm text-copper underline">
        All jobs
      </Link>
      <h1 className="my-3 text-lg font-bold">People</h1>
      {said && (
        <p role="alert" className="mb-3 rounded bg-stop-soft p-2 text-sm text-stop">
          {said}
        </p>
      )}
      <Sheet className="mb-4">
        <ul>
          {people.data?.map((who) => (
            <li
              key={who.id}
              className={clsx(
                "flex flex-wrap items-center gap-3 border-b border-line px-4 py-2",
                "last:border-b-0",
              )}
            >
              <span className={`min-w-40 grow ${who.disabled ? "text-ink-3 line-through" : ""}`}>
                <strong>{who.name}</strong>{" "}
                <span className="text-sm text-ink-2">{who.sign_in}</span>
              </span>
              <span className="w-56">
                <Pick
                  compact
                  label={`Role of ${who.name}`}
                  value={who.role}
                  options={OPTIONS}
                  onChange={(role) => {
                    void change(who, role as Role, who.disabled);
                  }}
                />
              </span>
              <Button
                disabled={who.id === account.id}
                onClick={() => {
                  void change(who, who.role, !who.disabled);
                }}
              >
                {who.disabled ? "Let in again" : "Shut out"}
              </Button>
            </li>
          ))}
        </ul>
      </Sheet>
      <AddPerson />
    </main>
  );
}

const EMPTY = { name: "", sign_in: "", password: "", role: "field" as Role };
const FIELDS = [
  ["name", "Name, as it stands on records", "text"],
  ["sign_in", "Name to sign in with", "text"],
  ["password", "First password, ten characters or more", "password"],
] as const;

function AddPerson() {
  const queries = useQueryClient();
  const [entry, setEntry] = useState(EMPTY);
  const [problems, setProblems] = useState<Problem[]>([]);
  const add = async () => {
    setProblems([]);
    try {
      await api.addAccount(entry);
      setEntry(EMPTY);
      await queries.invalidateQueries({ queryKey: ["accounts"] });
    } catch (error) {
      setProblems(
        error instanceof Refused && error.errors.length > 0
          ? error.errors
          : [{ path: "/name", message: error instanceof Error ? error.message : "" }],
      );
    }
  };
  return (
    <Sheet title="Let somebody in">
      <form
        className="grid gap-3 p-4 sm:grid-cols-2"
        autoComplete="off"
        onSubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        {FIELDS.map(([key, label, type]) => {
          const problem = problemAt(problems, `/${key}`);
          return (
            <label key={key} className="text-xs text-ink-2">
              {label}
              <input
                className={inputLook}
                type={type}
                autoComplete={type === "password" ? "new-password" : "off"}
                value={entry[key]}
                aria-invalid={problem !== undefined}
                onChange={(e) => {
                  setEntry({ ...entry, [key]: e.target.value });
                }}
              />
              {problem && (
                <span role="alert" className="font-bold text-stop">
                  {problem.message}: {problem.hint}
                </span>
              )}
            </label>
          );
        })}
        <Pick
          label="Role"
          value={entry.role}
          options={OPTIONS}
          onChange={(role) => {
            setEntry({ ...entry, role: role as Role });
          }}
        />
        <Button main type="submit" className="self-end">
          Let in
        </Button>
      </form>
    </Sheet>
  );
}
