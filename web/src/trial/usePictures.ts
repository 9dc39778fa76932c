// Pictures beneath a trial page: the rough as it is, the previous and the next drawing tinted in the action colour.
import { useEffect, useState } from 'react';

export type Beneath = { rough: CanvasImageSource | null; neighbours: CanvasImageSource[] };

/** The action colour, as the tint of neighbouring drawings wherever they are shown. */
export const TINT = '#0f6a70';

const loaded = (url: string) =>
  new Promise<HTMLImageElement | null>((done) => {
    const image = new Image();
    image.onload = () => done(image);
    image.onerror = () => done(null);
    image.src = url;
  });

/** Dark lines in the tint, on white. */
function tinted(image: HTMLImageElement) {
  const canvas = new OffscreenCanvas(image.naturalWidth, image.naturalHeight);
  const c = canvas.getContext('2d');
  if (!c) return image;
  c.fillStyle = '#fff';
  c.fillRect(0, 0, canvas.width, canvas.height);
  c.drawImage(image, 0, 0);
  c.globalCompositeOperation = 'saturation';
  c.fillStyle = '#888';
  c.fillRect(0, 0, canvas.width, canvas.height);
  c.globalCompositeOperation = 'screen';
  c.fillStyle = TINT;
  c.fillRect(0, 0, canvas.width, canvas.height);
  return canvas;
}

export function usePictures(base: string, rough: string | null | undefined, neighbours: string[] | undefined): Beneath {
  const [beneath, setBeneath] = useState<Beneath>({ rough: null, neighbours: [] });
  const names = neighbours?.join(' ') ?? '';
  useEffect(() => {
    let gone = false;
    const url = (sha: string) => `${base}/images/${sha}`;
    Promise.all([
      rough ? loaded(url(rough)) : null,
      ...names
        .split(' ')
        .filter(Boolean)
        .map((n) => loaded(url(n))),
    ]).then(([first, ...rest]) => {
      if (!gone) setBeneath({ rough: first ?? null, neighbours: rest.filter((i) => i !== null).map(tinted) });
    });
    return () => {
      gone = true;
    };
  }, [base, rough, names]);
  return beneath;
}
