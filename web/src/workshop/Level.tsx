import { useEffect, useRef } from "react";
import styles from "./Level.module.css";

/** How loud it is, as it is heard now. */
export function Level({ stream }: { stream: MediaStream }) {
  const bar = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    if (stream.getAudioTracks().length === 0) return;
    const sound = new AudioContext();
    const ear = sound.createAnalyser();
    ear.fftSize = 1024;
    sound.createMediaStreamSource(stream).connect(ear);
    const samples = new Float32Array(ear.fftSize);
    let frame = 0;
    const look = () => {
      ear.getFloatTimeDomainData(samples);
      const power = samples.reduce((sum, x) => sum + x * x, 0) / samples.length;
      const decibels = 10 * Math.log10(power + 1e-9); // below full scale
      const share = Math.max(0, Math.min(1, (decibels + 60) / 60));
      if (bar.current) bar.current.style.transform = `scaleX(${share})`;
      frame = requestAnimationFrame(look);
    };
    look();
    return () => {
      cancelAnimationFrame(frame);
      void sound.close();
    };
  }, [stream]);
  return (
    <span className={styles.level} role="img" aria-label="How loud it is">
      <span ref={bar} />
    </span>
  );
}
