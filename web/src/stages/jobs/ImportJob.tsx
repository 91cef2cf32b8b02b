/** A job file that is imported: looked at first, asked where it would add to the library. */
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, refusal, type LookedAt, type Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { Tick } from "../../ui/Tick";

const ARRIVES: Record<LookedAt["sheets"][number]["arrives"], string> = {
  new: "the company has not",
  new_revision: "a further revision of one the company has",
  there: "is there just so",
  differs: "the company has this revision with other values",
  too_far_ahead: "its number is too far ahead: it stays with the job",
};

interface Props {
  onSaid: (said: Refusal | null) => void;
}

export function ImportJob({ onSaid }: Props) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [asking, setAsking] = useState<{ text: string; found: LookedAt } | null>(null);
  const [offer, setOffer] = useState(true);
  const refused = (name: string, error: unknown) => {
    const { message, errors } = refusal(error);
    onSaid({ message: `${name} was not imported. ${message}`, errors });
  };
  const take = async (text: string, offered: boolean) => {
    const made = await api.importJob(text, offered);
    await queries.invalidateQueries({ queryKey: ["jobs"] });
    void navigate(`/jobs/${made.id}/strings`);
  };
  const look = async (chosen: File) => {
    onSaid(null);
    try {
      const text = await chosen.text();
      const found = await api.lookAtJobFile(text);
      const plain = found.sheets.every((s) => s.arrives === "there");
      if (plain && found.changes.length === 0 && found.readings_n === 0) await take(text, false);
      else setAsking({ text, found });
    } catch (error) {
      refused(chosen.name, error);
    }
  };
  const found = asking?.found;
  const others = found?.sheets.filter((s) => s.arrives !== "there") ?? [];
  const addable = others.filter((s) => s.arrives !== "too_far_ahead");
  return (
    <>
      <Button
        onClick={() => {
          input.current?.click();
        }}
      >
        Import a job file
      </Button>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        className="sr-only"
        tabIndex={-1}
        aria-label="Job file"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          // The same file may be chosen again; it stays until it has been read.
          if (chosen) {
            void look(chosen).finally(() => {
              if (input.current) input.current.value = "";
            });
          }
        }}
      />
      <Dialog
        title={`Import ${found?.name ?? ""}`}
        open={asking !== null}
        onClose={() => {
          setAsking(null);
        }}
      >
        <div className="grid gap-3 text-sm" data-testid="import">
          {others.length > 0 && (
            <div>
              <p>Data sheets in it that are not the company&apos;s:</p>
              <ul className="my-1 list-disc pl-5">
                {others.map((s) => (
                  <li key={`${s.kind}/${s.sheet}/${String(s.revision)}`}>
                    <strong>{s.name}</strong> revision {s.revision}: {ARRIVES[s.arrives]}
                    {s.keeps !== s.revision && `, so here it is revision ${String(s.keeps)}`}
                  </li>
                ))}
              </ul>
              {addable.length > 0 && (
                <Tick
                  label={`Add ${addable.length === 1 ? "it" : "them"} to the company's library too`}
                  checked={offer}
                  onChange={setOffer}
                />
              )}
            </div>
          )}
          {found !== undefined && found.readings_n > 0 && (
            <p>
              {found.readings_n} {found.readings_n === 1 ? "reading comes" : "readings come"} with
              it, marked as brought in by you.
            </p>
          )}
          {found !== undefined && found.changes.length > 0 && (
            <div>
              <p>It was written by an older version; these places are brought up to date:</p>
              <ul className="my-1 list-disc pl-5 font-mono">
                {found.changes.map((c) => (
                  <li key={c}>{c}</li>
                ))}
              </ul>
            </div>
          )}
          <div className="flex gap-2">
            <Button
              main
              onClick={() => {
                if (!asking) return;
                void take(asking.text, offer && addable.length > 0).catch((error: unknown) => {
                  refused(asking.found.name, error);
                });
                setAsking(null);
              }}
            >
              Import it
            </Button>
            <Button
              onClick={() => {
                setAsking(null);
              }}
            >
              Leave it
            </Button>
          </div>
        </div>
      </Dialog>
    </>
  );
}
