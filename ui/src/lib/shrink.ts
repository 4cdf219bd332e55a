// A picture made small enough for the book. Drawing it again leaves out what the camera wrote into
// the file: moment, model, position.
const most = 290 * 1024; // bytes; the book takes 300 kB
const side = 1600; // points, the longer one

export async function shrink(file: Blob): Promise<string> {
  const picture = await createImageBitmap(file);
  let scale = Math.min(1, side / Math.max(picture.width, picture.height));
  for (let quality = 0.85; ; quality -= 0.15) {
    const canvas = document.createElement('canvas');
    canvas.width = Math.max(1, Math.round(picture.width * scale));
    canvas.height = Math.max(1, Math.round(picture.height * scale));
    canvas.getContext('2d')?.drawImage(picture, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/jpeg', quality));
    if (!blob) throw new Error('no picture');
    if (blob.size <= most) return base64(new Uint8Array(await blob.arrayBuffer()));
    if (quality < 0.5) {
      scale /= 1.5;
      quality = 0.85;
    }
  }
}

function base64(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += 0x8000)
    text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}
