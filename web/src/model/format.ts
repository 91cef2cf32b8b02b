/** Numbers as they stand on paper: thin spaces in thousands, a true minus sign, the unit behind. */
import type { Unit, Value } from "../api/client";
import { FORMATS } from "./catalogue";

export const unitSign = (unit: Unit): string => FORMATS[unit]?.sign ?? unit;

export function plain(value: number, decimals: number): string {
  const [whole = "0", rest] = Math.abs(value).toFixed(decimals).split(".");
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, "\u2009") : whole;
  const text = rest ? `${grouped}.${rest}` : grouped;
  return value < 0 && /[1-9]/.test(text) ? `−${text}` : text;
}

export function number(value: number, unit: Unit): string {
  // A ratio that is whole is a count.
  if (unit === "ratio" && Number.isInteger(value)) return plain(value, 0);
  const [near, far] = FORMATS[unit]?.decimals ?? [2, 1];
  return plain(value, Math.abs(value) >= 100 ? far : near);
}

export function amount(value: Value, unit: Unit): string {
  if (value === null || value === undefined) return "open";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "string") return value;
  const sign = unitSign(unit);
  return sign ? `${number(value, unit)} ${sign}` : number(value, unit);
}

/** A value as the data sheet prints it: no decimals added. */
export function entered(value: number | string, unit: Unit): string {
  const sign = unitSign(unit);
  const text =
    typeof value === "number" ? plain(value, (String(value).split(".")[1] ?? "").length) : value;
  return sign ? `${text} ${sign}` : text;
}

/** A moment, in the reader's own time. */
export const moment = (iso: string): string =>
  new Date(iso).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

/** A count with its noun. */
export const many = (n: number, one: string): string => `${String(n)} ${one}${n === 1 ? "" : "s"}`;

/** A short form without decimals for drawings. */
export const round = (value: number): string => plain(value, 0);

export const FEET = 0.3048;

export function age(iso: string, now: number): string {
  const minutes = Math.max(0, Math.round((now - Date.parse(iso)) / 60000));
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${String(minutes)} min ago`;
  if (minutes < 60 * 36) return `${String(Math.round(minutes / 60))} h ago`;
  return `${String(Math.round(minutes / 1440))} days ago`;
}
