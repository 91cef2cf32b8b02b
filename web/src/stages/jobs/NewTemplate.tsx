/** A template from a job: what other jobs begin as. */
import { useState } from "react";
import { api, refusal, type JobLine } from "../../api/client";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";

export function NewTemplate({ job, onDone }: { job: JobLine; onDone: () => void }) {
  const [name, setName] = useState(`Like ${job.name}`);
  const [said, setSaid] = useState<string | null>(null);
  const make = async () => {
    try {
      await api.makeTemplate(job.id, name);
      onDone();
    } catch (error) {
      const { errors, message } = refusal(error);
      setSaid(errors[0] ? `The name ${errors[0].message}: ${errors[0].hint}` : message);
    }
  };
  return (
    <form
      className="grid gap-3 text-sm"
      onSubmit={(e) => {
        e.preventDefault();
        void make();
      }}
    >
      <p>
        It holds plan, equipment and settings. Customer, contact, address, serial numbers and
        readings stay with the job.
      </p>
      <label>
        What the template is called
        <input
          className={inputLook}
          autoFocus
          value={name}
          onChange={(e) => {
            setName(e.target.value);
          }}
        />
      </label>
      {said && (
        <p role="alert" className="font-bold text-stop">
          {said}
        </p>
      )}
      <div>
        <Button main type="submit">
          Make the template
        </Button>
      </div>
    </form>
  );
}
