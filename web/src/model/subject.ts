/** What a figure or a check is about: its kind, and the keys that make it up. */
import type { Subject } from "../api/client";

export type Kind = Subject["kind"];
export type Of<K extends Kind> = Extract<Subject, { kind: K }>;

/** One text for a subject: for lists, for addresses, for comparing. */
export function subjectKey(subject: Subject): string {
  switch (subject.kind) {
    case "site":
    case "sum":
      return subject.kind;
    case "panel":
      return `panel:${subject.panel}`;
    case "node":
      return `node:${subject.node}`;
    case "module":
      return `module:${subject.model} rev ${String(subject.revision)}`;
    case "inverter":
      return `inverter:${subject.inverter}`;
    case "mppt":
      return `mppt:${subject.inverter}/${String(subject.input)}`;
    case "string":
      return `string:${subject.string}`;
    case "branch":
      return `branch:${subject.branch}`;
    case "face":
      return `face:${subject.face}`;
    case "join":
      return `join:${subject.string}/${String(subject.place)}`;
    case "place":
      return `place:${subject.place}`;
    case "circuit":
      return subject.leg == null
        ? `circuit:${subject.circuit}`
        : `circuit:${subject.circuit}/${String(subject.leg)}`;
    case "way":
      return `way:${subject.way}/${String(subject.part)}`;
    case "device":
      return `device:${subject.node}.${subject.device}`;
    case "demand":
      return `demand:${subject.demand}`;
    case "reading":
      return `reading:${subject.reading}`;
  }
}

export const same = (a: Subject, b: Subject): boolean => subjectKey(a) === subjectKey(b);

export const ofString = (letter: string): Of<"string"> => ({ kind: "string", string: letter });

/** A subject in words. */
export function subjectName(subject: Subject): string {
  switch (subject.kind) {
    case "site":
      return "Site";
    case "panel":
      return `Panel ${subject.panel}`;
    case "node":
      return subject.node;
    case "sum":
      return "Sum";
    case "module":
      return `${subject.model} rev ${String(subject.revision)}`;
    case "inverter":
      return `Inverter ${subject.inverter}`;
    case "mppt":
      return `Input ${String(subject.input)} of ${subject.inverter}`;
    case "string":
      return `String ${subject.string}`;
    case "branch":
      return `Branch ${subject.branch}`;
    case "face":
      return `Face ${subject.face}`;
    case "join": {
      const at = (place: number) => `${subject.string}${String(place)}`;
      return `Join ${at(subject.place)} to ${at(subject.place + 1)}`;
    }
    case "place":
      return `Inverter at ${subject.place}`;
    case "circuit":
      return [
        `Circuit ${subject.circuit}`,
        ...(subject.leg == null ? [] : [`leg ${String(subject.leg)}`]),
      ].join(", ");
    case "way":
      return `Way ${subject.way}, part ${String(subject.part)}`;
    case "device":
      return `${subject.device} in ${subject.node}`;
    case "demand":
      return `Demand ${subject.demand}`;
    case "reading":
      return "Reading";
  }
}
