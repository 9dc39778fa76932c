// A line guide out as a file, and in from one.
import { useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import type { Schemas } from '../api/client';

type Guide = Schemas['LineGuide'];

/** The guide in a file's text; throws a sentence where it is none. What is wrong in its numbers is said when it is saved. */
export function guideOf(text: string): Guide {
  let read: Partial<Guide>;
  try {
    read = JSON.parse(text);
  } catch {
    throw new Error(
      'This file is no JSON: a line guide is exported from this page, or written as docs/formats/line-guide.schema.json says. Nothing was changed.',
    );
  }
  if (read?.format !== 'eddymist/line-guide' || !read.page || !Array.isArray(read.roles))
    throw new Error('This file is JSON and no line guide: it wants “format”: “eddymist/line-guide”, a page and roles. Nothing was changed.');
  return read as Guide;
}

export function useGuideFiles(onGuide: (g: Guide) => void) {
  const input = useRef<HTMLInputElement>(null);
  const [error, setError] = useState<unknown>(null);
  const choose = () => input.current?.click();
  const field = (
    <input
      ref={input}
      type="file"
      hidden
      accept=".json,application/json"
      aria-label="line guide file"
      onChange={async (e) => {
        const file = e.target.files?.[0];
        e.target.value = '';
        if (!file) return;
        setError(null);
        try {
          onGuide(guideOf(await file.text()));
        } catch (x) {
          setError(x);
        }
      }}
    />
  );
  const save = (view: Schemas['GuideView']) => {
    const url = URL.createObjectURL(new Blob([`${JSON.stringify(view.guide, null, 1)}\n`], { type: 'application/json' }));
    const a = document.createElement('a');
    a.href = url;
    a.download = `${view.guide.name.replace(/[^\p{L}\p{N} ._-]/gu, '-')}-v${view.version}.json`;
    a.click();
    URL.revokeObjectURL(url);
  };
  const importer = (
    <>
      <Button variant="paper" onClick={choose}>
        Import guide from a file
      </Button>
      {field}
    </>
  );
  return { error, choose, field, save, importer };
}
