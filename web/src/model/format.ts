/** Numbers as they stand on paper: thin spaces in thousands, a true minus sign, the unit behind. */
import type { Unit, Value } from "../api/client";
import { FORMATS } from "./catalogue";
import { shownAs, signOf, toShown } from "./shown";

const keptSign = (unit: Unit): string => FORMATS[unit]?.sign ?? unit;

/** The sign of a unit as it is shown. */
export const unitSign = (unit: Unit): string => {
  const shown = shownAs(unit);
  return shown ? signOf(shown) : keptSign(unit);
};

export function plain(value: number, decimals: number): string {
  const [whole = "0", rest] = Math.abs(value).toFixed(decimals).split(".");
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, "\u2009") : whole;
  const text = rest ? `${grouped}.${rest}` : grouped;
  return value < 0 && /[1-9]/.test(text) ? `−${text}` : text;
}

export function number(value: number, unit: Unit): string {
  const shown = shownAs(unit);
  return shown ? plain(toShown(value, shown), shown.decimals) : keptNumber(value, unit);
}

function keptNumber(value: number, unit: Unit): string {
  // A ratio that is whole is a count.
  if (unit === "ratio" && Number.isInteger(value)) return plain(value, 0);
  const [near, far] = FORMATS[unit]?.decimals ?? [2, 1];
  return plain(value, Math.abs(value) >= 100 ? far : near);
}

const words = (value: Exclude<Value, number>): string => {
  if (value === null || value === undefined) return "open";
  if (typeof value === "boolean") return value ? "yes" : "no";
  return value;
};

const signed = (text: string, sign: string): string => (sign ? `${text} ${sign}` : text);

/** A value with its unit, as it is shown to whoever reads. */
export const amount = (value: Value, unit: Unit): string =>
  typeof value === "number" ? signed(number(value, unit), unitSign(unit)) : words(value);

/** The same without decimals, for drawings and the way of the current. */
export const whole = (value: number, unit: Unit): string => {
  const as = shownAs(unit);
  return signed(plain(as ? toShown(value, as) : value, 0), unitSign(unit));
};

/** A value in the unit it was worked out in: a working is not put into other units. */
export const workedAmount = (value: Value, unit: Unit): string =>
  typeof value === "number" ? signed(keptNumber(value, unit), keptSign(unit)) : words(value);

/** What lies between two values: of temperatures a difference, which has no nought to shift. */
export const between = (value: Value, unit: Unit): string =>
  amount(value, unit === "degC" ? "K" : unit).replace(/ K$/, unit === "degC" ? " °C" : " K");

/** A value as the data sheet prints it: no decimals added. */
export function entered(value: number | string, unit: Unit): string {
  const sign = keptSign(unit);
  const text =
    typeof value === "number" ? plain(value, (String(value).split(".")[1] ?? "").length) : value;
  return sign ? `${text} ${sign}` : text;
}

/** A moment, in the reader's own time. */
export const moment = (iso: string): string =>
  new Date(iso).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

/** A day, in the reader's own time. */
export const day = (iso: string): string =>
  new Date(iso).toLocaleDateString("en-GB", { dateStyle: "medium" });

/** A count with its noun. */
export const many = (n: number, one: string): string => `${String(n)} ${one}${n === 1 ? "" : "s"}`;

/** A short form without decimals for drawings. */
export const round = (value: number): string => plain(value, 0);

export function age(iso: string, now: number): string {
  const minutes = Math.max(0, Math.round((now - Date.parse(iso)) / 60000));
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${String(minutes)} min ago`;
  if (minutes < 60 * 36) return `${String(Math.round(minutes / 60))} h ago`;
  return `${String(Math.round(minutes / 1440))} days ago`;
}
