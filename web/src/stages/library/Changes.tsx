/** What differs between two revisions of a data sheet. */
import type { Change } from "../../api/client";

export function Changes({ changes }: { changes: Change[] }) {
  return (
    <table className="w-full">
      <tbody>
        {changes.map((c) => (
          <tr key={c.field} className="border-b border-line">
            <td className="py-0.5">{c.title}</td>
            <td className="text-right font-mono whitespace-nowrap">
              {String(c.from ?? "not given")} → <strong>{String(c.to ?? "not given")}</strong>{" "}
              {c.unit === "n" ? "" : c.unit}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
