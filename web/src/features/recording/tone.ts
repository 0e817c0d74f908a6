const PITCH_HZ = 880;
const LENGTH_S = 0.7;

/** The tone at the target. Browsers allow it once a key or button was pressed on the page. */
export class Tone {
  private context: AudioContext | null = null;

  /** To be called from a key or a button. */
  allow() {
    this.context ??= new AudioContext();
    void this.context.resume();
  }

  get allowed(): boolean {
    return this.context?.state === "running";
  }

  play() {
    if (!this.context) return;
    const [voice, volume] = [this.context.createOscillator(), this.context.createGain()];
    const now = this.context.currentTime;
    voice.frequency.value = PITCH_HZ;
    volume.gain.setValueAtTime(0.6, now);
    volume.gain.exponentialRampToValueAtTime(0.001, now + LENGTH_S);
    voice.connect(volume).connect(this.context.destination);
    voice.start(now);
    voice.stop(now + LENGTH_S);
  }
}
