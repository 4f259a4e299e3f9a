/**
 * A picture of a video, taken a second into it or at its middle where it is shorter; null where this browser cannot show
 * the file.
 */
export async function takePoster(file: File): Promise<File | null> {
  const url = URL.createObjectURL(file);
  const video = document.createElement('video');
  try {
    video.muted = true;
    video.preload = 'auto';
    const happens = (event: string): Promise<void> =>
      new Promise((resolve, reject) => {
        video.addEventListener(event, () => resolve(), { once: true });
        video.addEventListener('error', () => reject(new Error('It cannot be shown')), { once: true });
        setTimeout(() => reject(new Error('It takes too long')), 8_000);
      });
    const ready = happens('loadeddata');
    video.src = url;
    await ready;
    const there = happens('seeked');
    video.currentTime = Number.isFinite(video.duration) ? Math.min(1, video.duration / 2) : 0.01;
    await there;
    const canvas = document.createElement('canvas');
    canvas.width = video.videoWidth;
    canvas.height = video.videoHeight;
    canvas.getContext('2d')?.drawImage(video, 0, 0);
    const picture = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/jpeg', 0.9));
    return picture && new File([picture], 'poster.jpg', { type: 'image/jpeg' });
  } catch {
    return null;
  } finally {
    URL.revokeObjectURL(url);
  }
}
