/** Numbers as the bench shows them: units always, as many digits as can be trusted. */

export const percent = (share: number): string =>
  share >= 0.99995 ? "100 %" : `${(100 * share).toFixed(share >= 0.9995 ? 2 : 1)} %`;

export const bytes = (n: number): string =>
  n < 1000 ? `${n} B` : n < 1_000_000 ? `${(n / 1000).toFixed(1)} kB` : `${(n / 1_000_000).toFixed(1)} MB`;

export const pixels = (n: number): string => `${n.toFixed(n < 10 ? 2 : n < 100 ? 1 : 0)} px`;

export function ago(moment: string, now: number = Date.now()): string {
  const minutes = Math.max(0, Math.round((now - Date.parse(moment)) / 60_000));
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${minutes} min ago`;
  if (minutes < 60 * 24) return `${Math.round(minutes / 60)} h ago`;
  const days = Math.round(minutes / (60 * 24));
  return days === 1 ? "yesterday" : `${days} days ago`;
}

/** The time of day of a moment, as the reader's clock shows it. */
export const clock = (moment: string) =>
  new Date(moment).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
