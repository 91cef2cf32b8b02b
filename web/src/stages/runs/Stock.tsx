/** Cable that is there already: what it is, where it fits, and where it is too short. */
import { useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { api, type Job, type Reuse, type StockPiece } from "../../api/client";
import { amount, many } from "../../model/format";
import { freeKey } from "../../model/drop";
import { legsOf, planOf, type Wire } from "../../model/plan";
import { apply } from "../../model/pointer";
import { useBench } from "../../shell/bench";
import { CABLES } from "../../text/words";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Folded } from "../../ui/Folded";
import { TakeOut } from "../../ui/TakeOut";
import { TextField } from "../../ui/TextField";
import { Badge } from "../../ui/verdict";
import { YesNo } from "../../ui/YesNo";

const stockOf = (job: Job): Record<string, StockPiece> => job.stock ?? {};

const withPiece = (job: Job, key: string, piece: StockPiece): Job => ({
  ...job,
  stock: { ...stockOf(job), [key]: piece },
});

/** A piece goes with what uses it. */
function withoutPiece(job: Job, key: string): Job {
  const rest = Object.entries(stockOf(job)).filter(([k]) => k !== key);
  const plan = planOf(job);
  const circuits = Object.entries(plan.circuits).map(([k, c]) => [
    k,
    { ...c, legs: legsOf(c).map((l) => (l.piece === key ? { ...l, piece: null } : l)) },
  ]);
  return {
    ...job,
    stock: Object.fromEntries(rest),
    plan: { ...plan, circuits: Object.fromEntries(circuits) as typeof plan.circuits },
  };
}

export function Stock() {
  const { draft, editor, canPlan, choices } = useBench();
  const { job } = draft;
  const pieces = Object.entries(stockOf(job)).sort(([a], [b]) => a.localeCompare(b));
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["reuse", job],
    queryFn: () => api.reuse(job, draft.library),
    enabled: open && pieces.length > 0,
    placeholderData: (before) => before,
    retry: false,
  });
  if (!canPlan && pieces.length === 0) return null;
  const add = () => {
    const last = pieces.at(-1)?.[1];
    const wire = (last?.wire ??
      (job.school === "na"
        ? { awg: "10", insulation: "THWN-2" }
        : { mm2: choices.mm2.includes(6) ? 6 : choices.mm2[0] })) as Wire;
    const piece = { wire, length_m: null, cores_n: last?.cores_n ?? 1, pieces_n: 1 } as StockPiece;
    editor.editJob((j) => withPiece(j, freeKey(stockOf(j), "S"), piece));
    setOpen(true);
  };
  return (
    <Folded
      title="Cable that is there"
      aside={
        pieces.length === 0 ? "taken out elsewhere, or left of a drum" : many(pieces.length, "kind")
      }
      open={open}
      onOpen={setOpen}
    >
      {pieces.map(([key, piece]) => (
        <Piece
          key={key}
          name={key}
          piece={piece}
          fits={(found.data ?? []).filter((r) => r.piece === key)}
        />
      ))}
      {found.isError && (
        <p role="alert" className="p-3 text-sm text-stop">
          Where it fits cannot be worked out now.
        </p>
      )}
      {canPlan && (
        <div className="p-3">
          <Button onClick={add}>Enter a cable</Button>
        </div>
      )}
    </Folded>
  );
}

function Piece({ name, piece, fits }: { name: string; piece: StockPiece; fits: Reuse[] }) {
  const { draft, editor, canPlan, choices, problems } = useBench();
  const na = draft.job.school === "na";
  const wire = piece.wire as Wire;
  const change = (what: Partial<StockPiece>) => {
    editor.editJob((j) => {
      const now = stockOf(j)[name];
      return now ? withPiece(j, name, { ...now, ...what }) : j;
    });
  };
  const at = `/job/stock/${name}`;
  const whole = (n: number | null): number => Math.max(1, Math.round(n ?? 1));
  return (
    <div className="border-b border-line p-3" data-testid={`piece-${name}`}>
      <div className="grid grid-cols-6 items-end gap-2 max-md:grid-cols-2">
        {na ? (
          <>
            <Pick
              label={`Wire of ${name}, AWG`}
              value={wire.awg ?? ""}
              options={choices.awg.map((s) => [s, s] as const)}
              disabled={!canPlan}
              onChange={(awg) => {
                change({ wire: { ...wire, awg } });
              }}
            />
            <Pick
              label={`Insulation of ${name}`}
              value={wire.insulation ?? "THWN-2"}
              options={choices.insulations.map((s) => [s, s] as const)}
              disabled={!canPlan}
              onChange={(v) => {
                change({ wire: { ...wire, insulation: v as Wire["insulation"] } });
              }}
            />
          </>
        ) : (
          <>
            <Pick
              label={`Section of ${name}, mm²`}
              value={String(wire.mm2 ?? "")}
              options={choices.mm2.map((s) => [String(s), String(s)] as const)}
              disabled={!canPlan}
              onChange={(v) => {
                change({ wire: { ...wire, mm2: Number(v) } });
              }}
            />
            <Pick
              label={`Cable of ${name}`}
              value={wire.cable ?? "solar"}
              options={choices.cables.map((c) => [c, CABLES[c] ?? c] as const)}
              disabled={!canPlan}
              onChange={(v) => {
                change({ wire: { ...wire, cable: v as Wire["cable"] } });
              }}
            />
          </>
        )}
        <NumberField
          label={`Length of ${name}`}
          kept="m"
          value={piece.length_m}
          readOnly={!canPlan}
          problem={problemAt(problems, `${at}/length_m`)}
          onChange={(length_m) => {
            change({ length_m });
          }}
        />
        <NumberField
          label={`Pieces of ${name}`}
          value={piece.pieces_n ?? 1}
          readOnly={!canPlan}
          problem={problemAt(problems, `${at}/pieces_n`)}
          onChange={(n) => {
            change({ pieces_n: whole(n) });
          }}
        />
        <NumberField
          label={`Conductors in ${name}`}
          value={piece.cores_n ?? 1}
          readOnly={!canPlan}
          problem={problemAt(problems, `${at}/cores_n`)}
          onChange={(n) => {
            change({ cores_n: whole(n) });
          }}
        />
        <YesNo
          label={`${name} is sound`}
          value={piece.sound}
          disabled={!canPlan}
          onChange={(sound) => {
            change({ sound });
          }}
        />
      </div>
      <div className="mt-2 flex items-end gap-3">
        <div className="grow">
          <TextField
            label={`Where ${name} comes from, what is printed on it`}
            value={piece.marks ?? ""}
            readOnly={!canPlan}
            onChange={(marks) => {
              change({ marks });
            }}
          />
        </div>
        {canPlan && (
          <TakeOut
            what={`cable ${name}`}
            onClick={() => {
              editor.editJob((j) => withoutPiece(j, name));
            }}
          />
        )}
      </div>
      {piece.length_m == null && (
        <p className="mt-2 text-sm text-ink-2">Its length says where it fits.</p>
      )}
      {fits.length > 0 && <Fits name={name} fits={fits} />}
    </div>
  );
}

function Fits({ name, fits }: { name: string; fits: Reuse[] }) {
  const { draft, editor, canPlan } = useBench();
  return (
    <div className="mt-2 overflow-x-auto">
      <table
        aria-label={`Where ${name} fits`}
        className={clsx(
          "w-full text-right text-sm [&_td]:px-2 [&_td]:py-1 [&_th]:px-2 [&_th]:font-normal",
          "max-md:text-left max-md:[&_thead]:sr-only max-md:[&_tr]:flex max-md:[&_tr]:flex-wrap",
        )}
      >
        <thead>
          <tr className="border-b border-line text-xs text-ink-2">
            <th className="text-left">In</th>
            <th>Cuts</th>
            <th>Left of it</th>
            <th className="text-left">Its wire there</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {fits.map((r) => (
            <tr key={`${r.circuit}/${String(r.leg)}`} className="border-b border-line">
              <td className="text-left font-bold">
                {r.circuit}
                {r.leg > 1 ? `, leg ${String(r.leg)}` : ""}
              </td>
              <td className="font-mono whitespace-nowrap">
                {r.cuts_n} × {amount(r.cut_m, "m")}
              </td>
              <td className={clsx("font-mono whitespace-nowrap", r.left_m < 0 && "text-stop")}>
                {r.left_m < 0 ? `${amount(-r.left_m, "m")} too short` : amount(r.left_m, "m")}
              </td>
              <td className="text-left">
                <span className="flex flex-wrap items-center gap-2">
                  <Badge verdict={r.verdict} />
                  <span className="text-xs text-ink-2">
                    {r.against.length > 0 ? r.against.join(", ") : ""}
                    {r.other_wire && r.against.length === 0 ? "instead of what is planned" : ""}
                  </span>
                </span>
              </td>
              <td className="whitespace-nowrap">
                {r.used ? (
                  <span className="text-holds">used here</span>
                ) : (
                  canPlan &&
                  r.left_m >= 0 && (
                    <button
                      type="button"
                      className="min-h-8 text-copper underline max-md:min-h-12"
                      onClick={() => {
                        editor.editJob((j) => apply(j, r.edits, draft.job));
                      }}
                    >
                      Use {name} in {r.circuit}
                    </button>
                  )
                )}
                {r.used && canPlan && (
                  <button
                    type="button"
                    className="ml-3 min-h-8 text-copper underline max-md:min-h-12"
                    onClick={() => {
                      const at = `/plan/circuits/${r.circuit}/legs/${String(r.leg - 1)}/piece`;
                      editor.editJob((j) => apply(j, [{ pointer: at, value: null as never }]));
                    }}
                  >
                    Not in {r.circuit}
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
