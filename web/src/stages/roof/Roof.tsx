/** Roof map: modules on their faces, which way round each lies, how the leads join. */
import { useMemo, useRef, useState } from "react";
import { api, refusal, type Along, type Job, type Rerouted } from "../../api/client";
import { RoofMap, type MapActions } from "../../drawing/RoofMap";
import { amount, many, plain } from "../../model/format";
import { checkKey, valueOf } from "../../model/report";
import * as roof from "../../model/roof";
import { drawn as drawnFace } from "../../model/roofDrawn";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { StageFrame, usePicked } from "../../shell/StageFrame";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";
import { useNarrow } from "../../ui/useNarrow";
import { FaceDetails } from "./FaceDetails";
import { FaceForm } from "./FaceForm";
import { MapSettings } from "./MapSettings";
import { PlugIn } from "./PlugIn";
import { RowStrip } from "./RowStrip";
import { SerialTools } from "./SerialTools";
import { Serials } from "./Serials";
import { Strings } from "./Strings";
import { Tools } from "./Tools";
import { Trunks } from "./Trunks";

/** What comes after modules were laid. */
const NEXT = "Route the strings next.";

/** What the map goes out as: its end, whether it takes the site's place, what it is called. */
const FORMATS = [
  ["svg", false, "SVG"],
  ["dxf", false, "DXF"],
  ["geojson", true, "GeoJSON"],
] as const;

/** Turns without a gain after which a search ends by itself. */
const IDLE_TURNS = 6;

/** How far a routing is from what is proved to be the least. */
function bounded(gap_pct: number | null | undefined): string {
  if (gap_pct == null) return "";
  return gap_pct < 0.05
    ? " Less is not possible."
    : ` That is at most ${plain(gap_pct, 1)} % above the least there can be.`;
}

/** What a routing came to beside what was there. */
function compared({ before, after, gap_pct, cut }: Rerouted, trunks: boolean): string {
  const metres = (m: number) => amount(m, "m");
  const [wire, jumper] = trunks ? ["cable", "gap with a lost drop"] : ["wire", "jumper"];
  const now = [
    `${metres(after.wire_m)} of ${wire}`,
    many(after.jumpers_n, jumper),
    ...(trunks ? [] : [`${String(after.turned_n)} turned`]),
  ].join(", ");
  const early = " The time was up before the search was through: it can be gone on with.";
  const bound = `${bounded(gap_pct)}${cut ? early : ""}`;
  if (!before) return `Routed: ${now}.${bound}`;
  const less = before.wire_m - after.wire_m;
  const moved =
    Math.abs(less) < 0.005
      ? `as much ${wire} as before`
      : `${metres(Math.abs(less))} of ${wire} ${less > 0 ? "less" : "more"}`;
  const jumpers = before.jumpers_n - after.jumpers_n;
  const fewer =
    jumpers === 0 ? "" : `${many(Math.abs(jumpers), jumper)} ${jumpers > 0 ? "less" : "more"}, `;
  return `Routed: ${fewer}${moved}; ${now}.${bound}`;
}

/** The string or branch of a face that is joined where none was chosen. */
const firstOf = (job: Job, face: string): string | undefined =>
  [...roof.stringsOf(job), ...roof.branchesOf(job)].find((s) => s.face === face)?.letter;

export function Roof() {
  const { view, draft, editor, canPlan, pick } = useBench();
  const { report } = view;
  const { job, library } = draft;
  const drawn = useMemo(() => report.roof.map((f) => drawnFace(f, job, report)), [report, job]);
  const [chosen, setChosen] = useState<{ face: string; keys: string[] } | null>(null);
  const [joining, setJoining] = useState<string | null>(null);
  const [keep, setKeep] = useState<string[]>([]);
  const [mayTurn, setMayTurn] = useState(true);
  const [rails, setRails] = useState(false);
  const [busy, setBusy] = useState<string | null>(null);
  const narrow = useNarrow();
  const [said, setSaid] = useState<string | null>(null);
  const going = useRef(false);
  const [searching, setSearching] = useState(false);
  const picked = usePicked("roof");
  const join =
    picked?.subject.kind === "join"
      ? { letter: picked.subject.string, place: picked.subject.place }
      : null;
  const judged = report.checks.filter((c) => c.stage === "roof");
  const strings = job.strings ?? [];
  const letters = [...strings, ...roof.branchesOf(job)].map((s) => s.letter);
  const edit = (change: (j: Job) => Job) => {
    editor.editJob(change);
  };
  /** Asks the server for the job with an edit made; what was entered meanwhile is not lost. */
  const ask = (doing: string, call: (from: Job) => Promise<{ job: Job; text: string }>) => {
    const from = editor.get().draft.job;
    setBusy(doing);
    call(from).then(
      ({ job: next, text }) => {
        setBusy(null);
        if (editor.get().draft.job !== from) {
          setSaid("The plan has changed meanwhile: ask again.");
          return;
        }
        editor.editJob(() => next);
        setSaid(text);
      },
      (error: unknown) => {
        setBusy(null);
        const { message, errors } = refusal(error);
        const first = errors[0];
        setSaid(first ? `${first.message}. ${first.hint}.` : message);
      },
    );
  };
  const onKeep = (letter: string) => {
    setKeep((k) => (k.includes(letter) ? k.filter((l) => l !== letter) : [...k, letter]));
  };
  const route = (face: string) => {
    ask("Routing", async (from) => {
      const done = await api.routeFace(from, library, { face, keep, may_turn: mayTurn });
      return { job: done.job, text: compared(done, roof.branchesOf(from).length > 0) };
    });
  };
  /** One string along its own modules as it is asked. */
  const run = (letter: string, along: Along) => {
    const own = strings.find((s) => s.letter === letter);
    if (!own) return;
    const others = strings.map((s) => s.letter).filter((l) => l !== letter);
    const stay = [...others, ...roof.branchesOf(job).map((b) => b.letter)];
    ask(`Running ${letter}`, async (from) => {
      const asked = { face: own.face, keep: stay, may_turn: mayTurn, along };
      const done = await api.routeFace(from, library, asked);
      return { job: done.job, text: compared(done, false) };
    });
  };
  /** Searches on from what is there, turn by turn, until it is stopped or finds nothing more. */
  const better = async (face: string) => {
    const from = editor.get().draft.job;
    let [now, found, idle]: [Job, Rerouted | null, number] = [from, null, 0];
    going.current = true;
    setSearching(true);
    setSaid(null);
    try {
      for (let turn = 1; going.current && idle < IDLE_TURNS; turn++) {
        const done = await api.routeFace(now, library, { face, keep, may_turn: mayTurn, turn });
        const gain = (done.before?.wire_m ?? Infinity) - done.after.wire_m;
        idle = gain > 0.005 ? 0 : idle + 1;
        if (gain > 0.005 || found === null) [now, found] = [done.job, done];
        setBusy(`Turn ${String(turn)}: ${amount(found.after.wire_m, "m")} of wire`);
      }
      if (editor.get().draft.job !== from)
        setSaid("The plan has changed meanwhile: nothing was taken over.");
      else if (found) {
        editor.editJob(() => now);
        setSaid(compared(found, roof.branchesOf(from).length > 0));
      }
    } catch (error: unknown) {
      const { message, errors } = refusal(error);
      setSaid(errors[0]?.message ?? message);
    }
    going.current = false;
    setBusy(null);
    setSearching(false);
  };
  const actionsOf = (face: string): MapActions | null =>
    canPlan
      ? {
          onMove: (keys, by) => {
            edit((j) => roof.move(j, face, keys, by));
          },
          onTurn: (keys) => {
            edit((j) => roof.turn(j, face, keys));
          },
          onTip: (keys) => {
            edit((j) => roof.tip(j, face, keys));
          },
          onTakeOff: (keys) => {
            edit((j) => roof.takeOff(j, face, keys));
            setChosen(null);
          },
          onJoin: (key) => {
            const letter = joining ?? firstOf(job, face);
            if (letter !== undefined) edit((j) => roof.joinNext(j, letter, key));
          },
          onPin: (keys) => {
            edit((j) => roof.pin(j, keys));
          },
          onRoute: () => {
            route(face);
          },
          onBox: (at) => {
            edit((j) => roof.changeFace(j, face, { box_mm: at }));
          },
        }
      : null;
  const keys = chosen?.keys ?? [];
  const modules = drawn.reduce((sum, f) => sum + f.modules.length, 0);
  const faces = job.site.faces ?? [];
  const placed = job.site.latitude_deg != null && job.site.longitude_deg != null;
  const aboutFace = (face: string, tilt: number, n: number) => {
    const wire = valueOf(report, "route.wire_m", { kind: "face", face });
    return [
      `${String(tilt)}° pitch`,
      many(n, "module"),
      ...(wire == null ? [] : [`${amount(wire, "m")} of jumpers and tails`]),
    ].join(" · ");
  };
  return (
    <StageFrame
      stage="roof"
      about="drawn from above, ridge on top · leads where they leave each module"
    >
      {narrow && <PlugIn />}
      {canPlan && modules > 0 && (
        <Tools
          letters={letters}
          tapes={report.tapes}
          joining={joining}
          onJoining={setJoining}
          onLoosen={(letter) => {
            edit((j) => roof.loosen(j, letter));
          }}
          picked={keys.length}
          onTurn={() => {
            if (chosen) edit((j) => roof.turn(j, chosen.face, keys));
          }}
          onTakeOff={() => {
            if (chosen) edit((j) => roof.takeOff(j, chosen.face, keys));
            setChosen(null);
          }}
          onPin={() => {
            edit((j) => roof.pin(j, keys));
          }}
          onAlign={(along) => {
            if (chosen) edit((j) => roof.align(j, chosen.face, keys, along));
          }}
          mayTurn={mayTurn}
          onMayTurn={setMayTurn}
        />
      )}
      {modules > 0 && (
        <Tick label="Rails and bonding instead of leads" checked={rails} onChange={setRails} />
      )}
      {(said !== null || busy !== null) && (
        <p role="status" className="mb-3 rounded bg-copper-soft px-3 py-2 text-sm">
          {busy === null ? said : `${busy} …`}
          {searching && (
            <button
              type="button"
              className="ml-3 font-bold text-copper underline"
              onClick={() => {
                going.current = false;
              }}
            >
              Stop and keep the best
            </button>
          )}
        </p>
      )}
      {faces.length === 0 && (
        <Sheet title="No face yet" className="mb-3">
          <p className="p-3 text-sm text-ink-2">Faces are entered under Site.</p>
        </Sheet>
      )}
      <div className={faces.length > 1 ? "grid gap-3 xl:grid-cols-2" : "grid gap-3"}>
        {faces.map((f) => {
          const own = drawn.find((r) => r.face === f.id);
          return (
            <Sheet
              key={f.id}
              title={f.name}
              aside={aboutFace(f.id, f.tilt_deg, own?.modules.length ?? 0)}
            >
              {own && own.modules.length > 0 && (
                <div className="p-2">
                  <RoofMap
                    face={own}
                    tapes={report.tapes}
                    selected={chosen?.face === f.id ? keys : []}
                    onSelect={(next) => {
                      setChosen({ face: f.id, keys: next });
                    }}
                    join={join}
                    onPickJoin={(string, place) => {
                      const check = judged.find(
                        (c) =>
                          c.subject.kind === "join" &&
                          c.subject.string === string &&
                          c.subject.place === place,
                      );
                      pick(check ? checkKey(check) : null);
                    }}
                    joining={joining !== null}
                    rails={rails}
                    wide={faces.length > 1 ? 360 : 746}
                    actions={actionsOf(f.id)}
                  />
                </div>
              )}
              <FaceForm
                face={f.id}
                drawn={own}
                busy={busy !== null}
                onFill={(fill) => {
                  ask("Laying modules", async (from) => {
                    const done = await api.fillFace(from, library, fill);
                    const room =
                      done.room_n > done.modules_n ? `; ${String(done.room_n)} would fit` : "";
                    return {
                      job: done.job,
                      text: `${many(done.modules_n, "module")} laid${room}. ${NEXT}`,
                    };
                  });
                }}
                onRoute={() => {
                  route(f.id);
                }}
                onBetter={() => {
                  void better(f.id);
                }}
                onAdd={() => {
                  if (!own) return;
                  const { job: next, key } = roof.add(job, f.id, roof.besideLast(own));
                  edit(() => next);
                  setChosen({ face: f.id, keys: [key] });
                }}
              />
              {own && <RowStrip face={own} />}
              <FaceDetails face={f.id} />
            </Sheet>
          );
        })}
      </div>
      {drawn.some((f) => f.strings.length > 0) && (
        <Strings
          checks={judged}
          rows={drawn.flatMap((f) => f.strings.map((s) => ({ face: f.name, s })))}
          keep={keep}
          onKeep={onKeep}
          onRun={canPlan && busy === null ? run : null}
        />
      )}
      {report.roof.some((f) => (f.trunks ?? []).length > 0) && (
        <Trunks trunks={report.roof.flatMap((f) => f.trunks ?? [])} {...{ keep, onKeep }} />
      )}
      {!narrow && <PlugIn />}
      {modules > 0 && (
        <SerialTools
          faces={drawn}
          onPick={(face, key) => {
            setChosen({ face, keys: [key] });
          }}
        />
      )}
      {drawn
        .filter((f) => f.modules.length > 0)
        .map((f) => (
          <Serials
            key={f.face}
            face={f}
            onPick={(key) => {
              setChosen({ face: f.face, keys: [key] });
            }}
          />
        ))}
      <MapSettings />
      <Sheet
        title="Faces"
        aside={
          modules > 0 && (
            <>
              the map as{" "}
              {FORMATS.filter(([, located]) => !located || placed).map(([format, , name]) => (
                <a
                  key={format}
                  className="mr-2 font-bold text-copper underline"
                  href={`/api/jobs/${view.id}/roof/${format}`}
                >
                  {name}
                </a>
              ))}
              {!placed && "(GeoJSON once the site has latitude and longitude)"}
            </>
          )
        }
        className="mt-3"
      >
        <CheckList
          report={report}
          checks={judged.filter((c) => c.subject.kind === "face")}
          onPick={(c) => {
            pick(checkKey(c));
          }}
        />
      </Sheet>
    </StageFrame>
  );
}
