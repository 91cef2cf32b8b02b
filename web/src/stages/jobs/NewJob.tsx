/** A new job: empty, or begun as a copy of a template. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, refusal, type Job } from "../../api/client";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";
import { Pick } from "../../ui/Pick";

export function NewJob() {
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [customer, setCustomer] = useState("");
  const [template, setTemplate] = useState("");
  const [school, setSchool] = useState<Job["school"]>("na");
  const [said, setSaid] = useState<string | null>(null);
  const templates = useQuery({
    queryKey: ["jobs", "templates"],
    queryFn: () => api.jobs({ templates: true, order: "name" }),
  });
  const make = async () => {
    try {
      const made = await api.createJob({
        name,
        school,
        customer,
        template: template || null,
        time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      });
      void navigate(`/jobs/${made.id}/site`);
    } catch (error) {
      const { errors, message } = refusal(error);
      const [first] = errors;
      const what = first?.path === "/job/customer" ? "The customer" : "The name";
      setSaid(first ? `${what} ${first.message}: ${first.hint}` : message);
    }
  };
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        void make();
      }}
    >
      <label className="block text-sm">
        Name
        <input
          className={inputLook}
          autoFocus
          value={name}
          aria-invalid={said !== null}
          onChange={(e) => {
            setName(e.target.value);
          }}
        />
      </label>
      <label className="block text-sm">
        Customer, if known
        <input
          className={inputLook}
          value={customer}
          onChange={(e) => {
            setCustomer(e.target.value);
          }}
        />
      </label>
      {(templates.data?.jobs.length ?? 0) > 0 && (
        <Pick
          label="Begins as"
          value={template}
          options={[
            ["", "an empty job"],
            ...(templates.data?.jobs ?? []).map((t) => [t.id, t.name] as const),
          ]}
          onChange={setTemplate}
        />
      )}
      {template === "" && (
        <fieldset>
          <legend className="text-sm">
            School of practice; it decides units, tables and wording, and stays
          </legend>
          {(["na", "iec"] as const).map((s) => (
            <label key={s} className="mr-6 inline-flex min-h-10 items-center gap-2 text-sm">
              <input
                type="radio"
                name="school"
                checked={school === s}
                onChange={() => {
                  setSchool(s);
                }}
              />
              {s === "na" ? "North American: AWG, feet, NEC style" : "IEC: mm², metres"}
            </label>
          ))}
        </fieldset>
      )}
      {said && (
        <p role="alert" className="text-sm font-bold text-stop">
          {said}
        </p>
      )}
      <div>
        <Button main type="submit">
          Start the job
        </Button>
      </div>
    </form>
  );
}
