/** Who may sign in, and as what; for the owner. */
import { clsx } from "clsx";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused, type Account, type Problem, type Role } from "../../api/client";
import { moment } from "../../model/format";
import { PageHead } from "../../shell/PageHead";
import { ROLES } from "../../text/words";
import { Button } from "../../ui/Button";
import { inputLook, problemAt } from "../../ui/field";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { linkTo } from "./SetPassword";
import { Units } from "./Units";

const OPTIONS = Object.entries(ROLES);

export function People({ account }: { account: Account }) {
  const people = useQuery({ queryKey: ["accounts"], queryFn: api.accounts });
  const queries = useQueryClient();
  const [said, setSaid] = useState<string | null>(null);
  const [link, setLink] = useState<{ name: string; to: string; until: string } | null>(null);
  const doing = async (what: () => Promise<unknown>) => {
    setSaid(null);
    setLink(null);
    try {
      await what();
    } catch (error) {
      setSaid(
        error instanceof Refused
          ? `${error.message}. ${error.detail}`
          : "The server does not answer. Nothing was changed.",
      );
    }
    await queries.invalidateQueries({ queryKey: ["accounts"] });
  };
  const change = (who: Account, role: Role, disabled: boolean) =>
    doing(() => api.changeAccount(who.id, { role, disabled }));
  const makeLink = (who: Account) =>
    doing(async () => {
      const { token, until } = await api.passwordLink(who.id);
      setLink({ name: who.name, to: linkTo(token), until: moment(until) });
    });
  return (
    <div className="flex h-full flex-col">
      <PageHead account={account} />
      <main className="min-h-0 grow overflow-y-auto p-4">
        <div className="mx-auto max-w-3xl">
          <h1 className="mb-3 text-lg font-bold">People</h1>
          {said && (
            <p role="alert" className="mb-3 rounded bg-stop-soft p-2 text-sm text-stop">
              {said}
            </p>
          )}
          {link && (
            <Sheet title={`A new password for ${link.name}`} className="mb-4">
              <div className="grid gap-2 p-4 text-sm">
                <p>
                  Hand this link on, so that only {link.name} reads it. It serves once, until{" "}
                  {link.until}. All sessions of the account end when it is used.
                </p>
                <input
                  className={inputLook}
                  aria-label="Link that sets the password"
                  readOnly
                  value={link.to}
                  onFocus={(e) => {
                    e.target.select();
                  }}
                />
              </div>
            </Sheet>
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
                  <span
                    className={`min-w-40 grow ${who.disabled ? "text-ink-3 line-through" : ""}`}
                  >
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
                  {who.wrong_n > 0 && (
                    <Button
                      title="Forget them: whoever has to wait need not"
                      onClick={() => {
                        void doing(() => api.unlock(who.id));
                      }}
                    >
                      {who.wrong_n} wrong {who.wrong_n === 1 ? "password" : "passwords"}: unlock
                    </Button>
                  )}
                  <Button
                    aria-label={`New password for ${who.name}`}
                    disabled={who.disabled}
                    onClick={() => {
                      void makeLink(who);
                    }}
                  >
                    New password
                  </Button>
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
          <Units
            title="Units the company shows"
            about="to everybody who chose nothing else"
            whose="company"
            set={api.setCompanyShown}
          />
        </div>
      </main>
    </div>
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
