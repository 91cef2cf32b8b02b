/** The sign-in. */
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../api/client";
import { Button } from "../ui/Button";
import { inputLook } from "../ui/field";
import { Brand } from "./Brand";

export function SignIn() {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const submit = async () => {
    setBusy(true);
    setSaid(null);
    try {
      queries.setQueryData(["session"], await api.signIn(name, password));
    } catch (error) {
      setSaid(
        error instanceof Refused
          ? `${error.message}. ${error.detail}`
          : "The server does not answer. Try again in a moment.",
      );
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="grid h-full place-items-center bg-slate p-4">
      <form
        className="w-full max-w-sm rounded-lg bg-sheet p-6"
        onSubmit={(e) => {
          e.preventDefault();
          void submit();
        }}
      >
        <h1 className="mb-1 flex items-center gap-2 text-lg font-bold">
          <Brand /> Heliant
        </h1>
        <p className="mb-4 text-sm text-ink-2">
          Plan, check, test and hand over the circuits of a PV system.
        </p>
        <label className="mb-3 block text-sm">
          Name
          <input
            className={inputLook}
            autoComplete="username"
            autoCapitalize="none"
            autoFocus
            required
            value={name}
            onChange={(e) => {
              setName(e.target.value);
            }}
          />
        </label>
        <label className="mb-4 block text-sm">
          Password
          <input
            className={inputLook}
            type="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(e) => {
              setPassword(e.target.value);
            }}
          />
        </label>
        {said && (
          <p role="alert" className="mb-3 rounded bg-stop-soft p-2 text-sm text-stop">
            {said}
          </p>
        )}
        <Button main type="submit" disabled={busy} className="w-full">
          Sign in
        </Button>
      </form>
    </main>
  );
}
