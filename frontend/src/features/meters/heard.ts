import { signal } from "../../api/signal";

/** Whether volts are heard as a tone, readings said aloud, figures that stand still taken by themselves. */
export const tone = signal(false);
export const voice = signal(false);
export const byItself = signal(false);

const LOW_HZ = 110;
const FROM_HZ = 260;
const TO_HZ = 1040;
const QUIET = 0.05;
let audio: AudioContext | null = null;
let humming: { oscillator: OscillatorNode; gain: GainNode } | null = null;

/** The sound of this page; a browser lets it sound once something was touched. */
function sound(): AudioContext | null {
  try {
    audio ??= new AudioContext();
    if (audio.state === "suspended") void audio.resume();
    return audio;
  } catch {
    return null;
  }
}

/**
 * How high a figure sounds (Hz): rising up to what is allowed, low beyond it.
 *
 * @example pitch(0.5) === 520; pitch(1.2) === 110
 */
export function pitch(share: number): number {
  if (share > 1) return LOW_HZ;
  return FROM_HZ * (TO_HZ / FROM_HZ) ** Math.max(share, 0);
}

/** Hum a figure, as a share of what is allowed; null for silence. */
export function hum(share: number | null): void {
  if (share === null || !tone.get()) {
    humming?.oscillator.stop();
    humming = null;
    return;
  }
  const context = sound();
  if (!context) return;
  if (!humming) {
    const oscillator = context.createOscillator();
    const gain = context.createGain();
    gain.gain.value = QUIET;
    oscillator.connect(gain).connect(context.destination);
    oscillator.start();
    humming = { oscillator, gain };
  }
  humming.oscillator.frequency.setTargetAtTime(pitch(share), context.currentTime, 0.02);
}

/** Two short notes: taken. With the second lower: refused, or over. */
export function chirp(good: boolean): void {
  if (!tone.get() && !byItself.get()) return;
  const context = sound();
  if (!context) return;
  const gain = context.createGain();
  gain.gain.value = QUIET * 2;
  gain.connect(context.destination);
  const notes = good ? [880, 1175] : [880, 220];
  notes.forEach((hz, at) => {
    const oscillator = context.createOscillator();
    oscillator.frequency.value = hz;
    oscillator.connect(gain);
    oscillator.start(context.currentTime + at * 0.12);
    oscillator.stop(context.currentTime + at * 0.12 + 0.1);
  });
}

/** Three beeps: something changed. It is sounded whatever else is on: a watch is begun to be told. */
export function alarm(): void {
  const context = sound();
  if (!context) return;
  const gain = context.createGain();
  gain.gain.value = QUIET * 3;
  gain.connect(context.destination);
  for (const at of [0, 0.25, 0.5]) {
    const oscillator = context.createOscillator();
    oscillator.frequency.value = 1320;
    oscillator.connect(gain);
    oscillator.start(context.currentTime + at);
    oscillator.stop(context.currentTime + at + 0.15);
  }
}

/** Say something aloud by the browser's own voice, where it has one and that is wished. */
export function speak(says: string): void {
  if (!voice.get() || !("speechSynthesis" in window)) return;
  speechSynthesis.cancel();
  speechSynthesis.speak(new SpeechSynthesisUtterance(says));
}
