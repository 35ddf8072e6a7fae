/** The recording that is being written on the sample desktop. */
export const recordingName = "recording-lee-harbour.wav";

export const samplesASecond = 8000;
/** A WAV file's head (RIFF, 8 bits, one channel); its length is not known while it is written. */
export function recordingHead(): Buffer {
  const head = Buffer.alloc(44);
  head.write("RIFF", 0, "latin1");
  head.writeUInt32LE(0xffffffff, 4);
  head.write("WAVEfmt ", 8, "latin1");
  head.writeUInt32LE(16, 16);
  head.writeUInt16LE(1, 20);
  head.writeUInt16LE(1, 22);
  head.writeUInt32LE(samplesASecond, 24);
  head.writeUInt32LE(samplesASecond, 28);
  head.writeUInt16LE(1, 32);
  head.writeUInt16LE(8, 34);
  head.write("data", 36, "latin1");
  head.writeUInt32LE(0xffffffff, 40);
  return head;
}

/** A second of surf: a low swell, the same in every recording. */
export function surf(second: number): Buffer {
  const samples = Buffer.alloc(samplesASecond);
  for (let n = 0; n < samples.length; n++) {
    const t = second + n / samplesASecond;
    const swell = 0.35 + 0.3 * Math.sin(t * 0.9);
    samples[n] = Math.round(128 + 90 * swell * Math.sin(t * 880) * Math.sin(t * 37 + Math.sin(t * 3)));
  }
  return samples;
}
