import { useCallback, useEffect, useRef, useState } from "react";

/** What a tone tells, as the pitches (Hz) that sound one after the other. */
const TONES = { over: [880, 880], closing: [660, 520], beat: [440] } as const;
const LONG_S = 0.16;
const SOFT = 0.2;

export type Tone = keyof typeof TONES;

export interface Sound {
  isOn: boolean;
  toggle: () => void;
  play: (tone: Tone) => void;
}

/**
 * Tones for eyes that are on the tooth: off until someone starts them, as a browser wants it too. Whoever `hears` starts
 * them with the first press, whatever it is for.
 */
export function useSound(hears: boolean): Sound {
  const context = useRef<AudioContext | null>(null);
  const [isOn, setIsOn] = useState(false);
  useEffect(() => () => void context.current?.close(), []);
  const play = useCallback((tone: Tone) => {
    const audio = context.current;
    if (audio?.state !== "running") return;
    TONES[tone].forEach((pitch, i) => sound(audio, pitch, audio.currentTime + i * 1.4 * LONG_S));
  }, []);
  useEffect(() => {
    if (!hears) return;
    const begun = new AbortController();
    const begin = (event: Event) => {
      begun.abort();
      // The switch itself is pressed for what it says.
      if (event.target instanceof Element && event.target.closest("[aria-pressed]")) return;
      context.current ??= new AudioContext();
      void context.current.resume();
      setIsOn(true);
    };
    for (const kind of ["pointerdown", "keydown"])
      window.addEventListener(kind, begin, { signal: begun.signal });
    return () => begun.abort();
  }, [hears]);
  const toggle = useCallback(() => {
    context.current ??= new AudioContext();
    void (isOn ? context.current.suspend() : context.current.resume());
    setIsOn(!isOn);
  }, [isOn]);
  return { isOn, toggle, play };
}

function sound(audio: AudioContext, pitch: number, at: number) {
  const tone = audio.createOscillator();
  const loudness = audio.createGain();
  tone.frequency.value = pitch;
  loudness.gain.setValueAtTime(SOFT, at);
  loudness.gain.exponentialRampToValueAtTime(0.001, at + LONG_S);
  tone.connect(loudness).connect(audio.destination);
  tone.start(at);
  tone.stop(at + LONG_S);
}

/** Plays a tone once when something comes true; what is true from the start says nothing. */
export function useTone(sound: Sound, tone: Tone, isSo: boolean, about: string) {
  const before = useRef({ about, isSo });
  const { play } = sound;
  useEffect(() => {
    const last = before.current;
    before.current = { about, isSo };
    if (isSo && !last.isSo && last.about === about) play(tone);
  }, [isSo, about, tone, play]);
}
