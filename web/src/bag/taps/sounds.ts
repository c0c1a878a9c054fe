import { now } from "../heard/clock";

/** Words spoken from clips that ship with the page, at a stated instant. */
const SPOKEN = ["lead", "rear"].flatMap((side) => ["straight", "hook", "uppercut", "elbow", "knee", "kick"].map((strike) => `${side}-${strike}`));
const SHORT = [...Array.from({ length: 12 }, (_, k) => String(k + 1)), "body", "head", "low", "round", "rest", "time", "ten-seconds", "stamp"];
const KNOWN = new Set([...SHORT, ...SPOKEN]);
const BETWEEN_S = 0.04; // words of one call
const UNMEASURED_MS = 25; // of a device whose delay nobody measured: what it says itself is off by so much
const SHOWN_MS = 20; // of a word that is only shown: a frame, and the screen's own delay
const DELAY = "audio_delay_ms";

let audio: AudioContext | null = null;
const clips = new Map<string, Promise<AudioBuffer | null>>();

function context(): AudioContext | null {
  if (!audio && "AudioContext" in window) audio = new AudioContext({ latencyHint: "interactive" });
  return audio;
}

/** To be called from a tap: browsers let nothing sound before one. */
export function wakeSound() {
  void context()?.resume();
}

/** The clip that a word is spoken by; a gym's own word is spoken as the strike that it means. */
export function clipOf(word: string, code: string): string | null {
  if (KNOWN.has(word)) return word;
  const [side, family = ""] = code.split("-");
  const kind = /round|front|side/.test(family) ? "kick" : family;
  return KNOWN.has(`${side}-${kind}`) ? `${side}-${kind}` : null;
}

function clip(name: string): Promise<AudioBuffer | null> {
  let one = clips.get(name);
  if (!one) {
    one = fetch(`/clips/${name}.opus`)
      .then((answer) => answer.arrayBuffer())
      .then((bytes) => context()!.decodeAudioData(bytes))
      .catch(() => null);
    clips.set(name, one);
  }
  return one;
}

export function keepDelay(ms: number, doubt_ms: number) {
  localStorage.setItem(DELAY, JSON.stringify({ ms, doubt_ms }));
}

export function forgetDelay() {
  localStorage.removeItem(DELAY);
}

/** How late this device sounds what it is given: as it was measured, else as the browser says. */
export function soundDelay(): { ms: number; doubt_ms: number; measured: boolean } {
  const kept = localStorage.getItem(DELAY);
  if (kept) return { ...(JSON.parse(kept) as { ms: number; doubt_ms: number }), measured: true };
  const told = audio ? 1000 * (audio.outputLatency || audio.baseLatency || 0) : 0;
  return { ms: told, doubt_ms: UNMEASURED_MS, measured: false };
}

/** Speak words so that the first is heard at `at_ms` of this device's clock; how well that instant is known. Where nothing can sound it is the screen's. */
export async function speakAt(names: string[], at_ms: number): Promise<{ heard: boolean; doubt_ms: number }> {
  const c = context();
  const buffers = c?.state === "running" ? await Promise.all(names.map(clip)) : [];
  const delay = soundDelay();
  if (!c || !buffers.length || buffers.some((b) => !b)) return { heard: false, doubt_ms: SHOWN_MS };
  let at = c.currentTime + (at_ms - now() - delay.ms) / 1000;
  for (const buffer of buffers) {
    const source = c.createBufferSource();
    source.buffer = buffer;
    source.connect(c.destination);
    source.start(Math.max(c.currentTime, at));
    at += buffer!.duration + BETWEEN_S;
  }
  return { heard: true, doubt_ms: delay.doubt_ms };
}

/** A beep at an instant, for the set's end of rest and for measuring the delay. */
export function beepAt(at_ms: number, hz = 880) {
  const c = context();
  if (c?.state !== "running") return;
  const at = Math.max(c.currentTime, c.currentTime + (at_ms - now()) / 1000);
  const tone = c.createOscillator();
  const gain = c.createGain();
  tone.frequency.value = hz;
  gain.gain.setValueAtTime(0.25, at);
  gain.gain.exponentialRampToValueAtTime(0.001, at + 0.18);
  tone.connect(gain).connect(c.destination);
  tone.start(at);
  tone.stop(at + 0.2);
}
