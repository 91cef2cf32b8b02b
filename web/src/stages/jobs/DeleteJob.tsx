/** Deletes a job that was put away: the owner types what it is called. */
import { useState } from "react";
import { api, refusal, type JobLine } from "../../api/client";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";

export function DeleteJob({ job, onDone }: { job: JobLine; onDone: () => void }) {
  const [typed, setTyped] = useState("");
  const [said, setSaid] = useState<string | null>(null);
  const same = typed.trim() === job.name.trim();
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        api.deleteJob(job.id, typed).then(onDone, (error: unknown) => {
          setSaid(refusal(error).message);
        });
      }}
    >
      <p className="mb-3 text-sm">
        <strong>{job.name}</strong> goes with its {job.revision}{" "}
        {job.revision === 1 ? "revision" : "revisions"} and every reading. Only a backup has them
        then. Export the job file first if you may need it.
      </p>
      <label className="mb-3 block text-sm">
        Type its name
        <input
          className={inputLook}
          autoFocus
          value={typed}
          onChange={(e) => {
            setTyped(e.target.value);
            setSaid(null);
          }}
        />
      </label>
      {said && (
        <p role="alert" className="mb-3 text-sm font-bold text-stop">
          {said}
        </p>
      )}
      <Button main type="submit" disabled={!same}>
        Delete it for good
      </Button>
    </form>
  );
}
