/** What units are shown: to oneself, or by the company. Every field reads the others too. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, refusal, type Shown, type ShownTo } from "../../api/client";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";

interface Props {
  title: string;
  about: string;
  whose: keyof ShownTo;
  set: (shown: Shown) => Promise<ShownTo>;
}

export function Units({ title, about, whose, set }: Props) {
  const queries = useQueryClient();
  const shown = useQuery({ queryKey: ["shown"], queryFn: api.shown });
  const [said, setSaid] = useState<string | null>(null);
  const now = shown.data?.[whose] ?? {};
  const put = async (what: Shown) => {
    try {
      queries.setQueryData(["shown"], await set({ ...now, ...what }));
      setSaid("Kept. It holds for the next job that is opened.");
    } catch (error) {
      setSaid(refusal(error).message);
    }
  };
  const usual = whose === "own" ? "as the company shows" : "as the job’s school has it";
  return (
    <Sheet title={title} aside={about} className="mt-4">
      <div className="grid gap-3 p-4 sm:grid-cols-2">
        <Pick
          label="Lengths"
          value={now.length ?? ""}
          options={[
            ["", usual],
            ["m", "metres"],
            ["ft", "feet"],
          ]}
          onChange={(v) => {
            void put({ length: v === "m" || v === "ft" ? v : undefined });
          }}
        />
        <Pick
          label="Temperatures"
          value={now.temperature ?? ""}
          options={[
            ["", whose === "own" ? usual : "degrees Celsius"],
            ["c", "degrees Celsius"],
            ["f", "degrees Fahrenheit"],
          ]}
          onChange={(v) => {
            void put({ temperature: v === "c" || v === "f" ? v : undefined });
          }}
        />
      </div>
      <p className="px-4 pb-3 text-xs text-ink-2">
        Typed may be what is at hand: 60&apos; 6&quot;, 18.3 m, 450 mm, 10 °F, a pitch of 4/12.
        Workings stay in metres and degrees Celsius.
      </p>
      {said && (
        <p role="status" className="px-4 pb-3 text-sm">
          {said}
        </p>
      )}
    </Sheet>
  );
}
