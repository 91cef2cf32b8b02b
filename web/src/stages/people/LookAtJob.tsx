/** Where a link to a job leads: it is opened, and the job with it. */
import { useEffect, useState } from "react";
import { api, refusal } from "../../api/client";
import { Notice } from "../../shell/Notice";

export function LookAtJob() {
  const [token] = useState(() => window.location.hash.slice(1));
  const [said, setSaid] = useState("Opening the job");
  useEffect(() => {
    // Out of the address: whoever looks over the shoulder does not get it.
    window.history.replaceState(null, "", "/look");
    api
      .openLink(token)
      .then(({ job }) => {
        window.location.assign(`/jobs/${job}/strings`);
      })
      .catch((error: unknown) => {
        const { message, errors } = refusal(error);
        setSaid(
          message === "Not found"
            ? "This link has ended or was taken back. Ask whoever gave it for another."
            : (errors[0]?.message ?? message),
        );
      });
  }, [token]);
  return <Notice text={said} />;
}
