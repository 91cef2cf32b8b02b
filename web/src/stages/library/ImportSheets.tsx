/** Data sheets from a file: what it would do first, every wrong row named, all or nothing. */
import { useState } from "react";
import { api, refusal, type Imported, type Refusal, type SheetKind } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { Pick } from "../../ui/Pick";
import { TextField } from "../../ui/TextField";
import { KINDS } from "./words";

const BECOMES = { new: "new", new_revision: "new revision", there: "is there already" } as const;

/** "/rows/3/ratings.voc_v" as people say it. */
function place(path: string): string {
  const [, rows, row, column] = path.split("/");
  if (rows === "rows") return `Row ${row ?? ""}${column ? `, ${column}` : ""}`;
  return path.slice(1).replaceAll("/", ", ") || "The file";
}

export function ImportSheets({ onClose, onDone }: { onClose: () => void; onDone: () => void }) {
  const [kind, setKind] = useState<SheetKind | "json">("module");
  const [from, setFrom] = useState("");
  const [file, setFile] = useState<{ name: string; text: string } | null>(null);
  const [preview, setPreview] = useState<Imported | null>(null);
  const [refused, setRefused] = useState<Refusal | null>(null);
  const [done, setDone] = useState<number | null>(null);
  const ask = async (text: string, of: SheetKind | "json", only: boolean) => {
    setRefused(null);
    try {
      const answer = await api.importSheets({
        kind: of === "json" ? null : of,
        text,
        from_document: from,
        preview: only,
      });
      setPreview(answer);
      if (!only) {
        setDone(answer.added_n);
        onDone();
      }
    } catch (error) {
      setPreview(null);
      setRefused(refusal(error));
    }
  };
  const adds = preview?.rows.filter((r) => r.becomes !== "there").length ?? 0;
  return (
    <Dialog title="Import data sheets" open onClose={onClose}>
      <div className="grid gap-3 text-sm">
        <div className="grid grid-cols-2 gap-3">
          <Pick
            label="The file holds"
            value={kind}
            options={[
              ...(Object.keys(KINDS) as SheetKind[]).map(
                (k) => [k, `${KINDS[k].many}, CSV`] as const,
              ),
              ["json", "all kinds, JSON"] as const,
            ]}
            onChange={(v) => {
              const next = v as SheetKind | "json";
              setKind(next);
              if (file) void ask(file.text, next, true);
            }}
          />
          <TextField label="Taken from (document, edition, date)" value={from} onChange={setFrom} />
        </div>
        <label className="block text-xs text-ink-2">
          File
          <input
            type="file"
            aria-label="File of data sheets"
            accept=".csv,.json,text/csv,application/json"
            className="block w-full text-sm"
            onChange={(e) => {
              const chosen = e.target.files?.[0];
              if (!chosen) return;
              setDone(null);
              void chosen.text().then((text) => {
                setFile({ name: chosen.name, text });
                const of = chosen.name.endsWith(".json")
                  ? "json"
                  : kind === "json"
                    ? "module"
                    : kind;
                setKind(of);
                return ask(text, of, true);
              });
            }}
          />
        </label>
        {refused && (
          <div
            role="alert"
            className="rounded border border-stop bg-stop-soft p-2"
            data-testid="import-refused"
          >
            <p className="font-bold text-stop">
              Nothing is imported. {refused.errors.length === 0 ? refused.message : ""}
            </p>
            <ul>
              {refused.errors.slice(0, 40).map((p, i) => (
                <li key={`${p.path}${String(i)}`}>
                  <strong>{place(p.path)}:</strong> {p.message}
                  {p.hint ? ` (${p.hint})` : ""}
                </li>
              ))}
            </ul>
            {refused.errors.length > 40 && <p>And {refused.errors.length - 40} more.</p>}
          </div>
        )}
        {preview && done === null && (
          <>
            <table className="w-full" data-testid="import-preview">
              <tbody>
                {preview.rows.slice(0, 60).map((r) => (
                  <tr key={`${r.kind}${String(r.row)}`} className="border-b border-line">
                    <td className="py-0.5 text-xs text-ink-2">row {r.row}</td>
                    <td>
                      {r.name} rev {r.revision}
                    </td>
                    <td className="text-right">{BECOMES[r.becomes]}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {preview.rows.length > 60 && <p>And {preview.rows.length - 60} more rows.</p>}
          </>
        )}
        {done !== null && (
          <p role="status" className="font-bold" data-testid="import-done">
            {done} {done === 1 ? "revision was" : "revisions were"} added.
          </p>
        )}
        <div className="flex items-center gap-2">
          {done === null && (
            <Button
              main
              disabled={!file || !preview || adds === 0 || from.trim() === ""}
              onClick={() => {
                if (file) void ask(file.text, kind, false);
              }}
            >
              Import {adds} {adds === 1 ? "revision" : "revisions"}
            </Button>
          )}
          <Button onClick={onClose}>{done === null ? "Leave it" : "Done"}</Button>
          {preview && done === null && from.trim() === "" && (
            <span className="text-ink-2">Say where the values come from.</span>
          )}
        </div>
      </div>
    </Dialog>
  );
}
