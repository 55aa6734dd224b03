/** Numbers as the page shows them. */

/** Up to `digits` decimals, without trailing zeros. */
export function short(value: number, digits = 3): string {
  const text = value.toFixed(digits);
  return (text.includes('.') ? text.replace(/\.?0+$/, '') : text).replace(/^-0$/, '0');
}

/** Degrees: what may be tipped less than this before it falls over, is told (common practice). */
export const UNSTEADY = 15;

export const whole = (value: number): string => Math.round(value).toLocaleString('en');

export function volume(mm3: number): string {
  return mm3 >= 1000 ? `${(mm3 / 1000).toFixed(mm3 >= 100_000 ? 0 : 1)} cm³` : `${short(mm3, 1)} mm³`;
}

export function size(low: number[], high: number[]): string {
  return `${[0, 1, 2].map((i) => short((high[i] ?? 0) - (low[i] ?? 0), 1)).join(' × ')} mm`;
}

export function clock(time: string): string {
  return new Date(time).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
}

export function day(time: string): string {
  const then = new Date(time);
  const today = new Date().toDateString() === then.toDateString();
  return today
    ? `today ${clock(time)}`
    : then.toLocaleDateString('en-GB', { day: 'numeric', month: 'short' });
}

export const plural = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString('en')} ${count === 1 ? one : many}`;

export function duration(seconds: number): string {
  const minutes = Math.max(1, Math.round(seconds / 60));
  const hours = Math.floor(minutes / 60);
  return hours ? `${hours} h ${minutes % 60} min` : `${minutes} min`;
}
