/** Fields for a new password, typed twice; what is not right stands at its field. */
import { useState } from "react";
import { Refused, type Problem } from "../../api/client";
import { Button } from "../../ui/Button";
import { inputLook, problemAt } from "../../ui/field";

interface Props {
  /** Asks for the one so far too. */
  withOld?: boolean;
  onSet: (fresh: string, old: string) => Promise<unknown>;
  /** What is said when it is done. */
  done: string;
}

const FIELDS = [
  ["old", "Your password so far", "current-password"],
  ["new", "The new one, ten characters or more", "new-password"],
  ["again", "The new one again", "new-password"],
] as const;

export function NewPassword({ withOld = false, onSet, done }: Props) {
  const [typed, setTyped] = useState({ old: "", new: "", again: "" });
  const [problems, setProblems] = useState<Problem[]>([]);
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const set = async () => {
    setSaid(null);
    if (typed.new !== typed.again) {
      setProblems([{ path: "/again", message: "is another one", hint: "the same twice" }]);
      return;
    }
    setProblems([]);
    setBusy(true);
    try {
      await onSet(typed.new, typed.old);
      setTyped({ old: "", new: "", again: "" });
      setSaid(done);
    } catch (error) {
      if (error instanceof Refused && error.errors.length > 0) {
        // A link's form has one password, one's own has two.
        const renamed = (p: Problem) => (p.path === "/password" ? { ...p, path: "/new" } : p);
        setProblems(error.errors.map(renamed));
      } else
        setSaid(error instanceof Refused ? error.detail : "The server does not answer. Try again.");
    } finally {
      setBusy(false);
    }
  };
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        void set();
      }}
    >
      {FIELDS.filter(([key]) => withOld || key !== "old").map(([key, label, complete]) => {
        const problem = problemAt(problems, `/${key}`);
        return (
          <label key={key} className="text-xs text-ink-2">
            {label}
            <input
              className={inputLook}
              type="password"
              autoComplete={complete}
              required
              value={typed[key]}
              aria-invalid={problem !== undefined}
              onChange={(e) => {
                setTyped({ ...typed, [key]: e.target.value });
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
      {said && (
        <p role="status" className="text-sm">
          {said}
        </p>
      )}
      <div>
        <Button main type="submit" disabled={busy}>
          Set the password
        </Button>
      </div>
    </form>
  );
}
