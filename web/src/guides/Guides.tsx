// The production's line guides: which is looked at; a new one, a copy, one out of a file, one as a file.
import { useEffect, useState } from 'react';
import { Button, Dropdown } from 'react-bootstrap';
import { useSearchParams } from 'react-router';
import type { Schemas } from '../api/client';
import { useGuides } from '../parts/lists';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { draftKey, GuideEditor } from './GuideEditor';
import { useGuideFiles } from './useGuideFiles';

type Guide = Schemas['LineGuide'];

const FIRST: Guide = {
  format: 'eddymist/line-guide',
  version: 1,
  name: 'Line guide',
  page: { width_px: 1920, height_px: 1080 },
  finish: 'smooth',
  roles: [{ name: 'contour', from: { colour: '#1b1e24', tolerance: 8 }, weight_px: { target: 6, tolerance: 0.1 }, ends: 'any' }],
  must_mend: ['heavy', 'thin'],
} as Guide;

export function Guides() {
  const { production } = useOpen();
  const lead = production.part === 'lead';
  const guides = useGuides();
  const [search, setSearch] = useSearchParams();
  // So many new ones were begun: each is another.
  const [begun, setBegun] = useState(0);
  const asked = search.get('guide');
  const all = guides.data ?? [];
  const fresh = asked === 'new';
  const kept = fresh ? undefined : (all.find((g) => g.id === asked) ?? all[0]);
  const show = (id: string) => setSearch({ guide: id }, { replace: true });
  const draft = draftKey(production.id, undefined);
  /** A new guide that begins as this: unsaved work, which a reload keeps. */
  const begin = (guide: Guide) => {
    localStorage.setItem(draft, JSON.stringify({ guide, from: 0 }));
    setBegun((n) => n + 1);
    show('new');
  };
  const files = useGuideFiles(begin);
  // Work on the only guide that an older page left behind is gone on with.
  const only = all[0]?.id;
  useEffect(() => {
    const old = localStorage.getItem(`guide-${production.id}`);
    if (!old || !only) return;
    localStorage.setItem(draftKey(production.id, only), old);
    localStorage.removeItem(`guide-${production.id}`);
  }, [production.id, only]);
  if (guides.isLoading) return <Loading what="the guides" />;
  if (!kept && !fresh)
    return (
      <div className="page">
        <Head title="No line guide yet" />
        <Problem error={guides.error ?? files.error} />
        <Empty title="The guide says what lines must weigh">
          {lead ? (
            <>
              <Button onClick={() => begin(FIRST)}>Start with one role</Button> {files.importer}
            </>
          ) : (
            'A lead of this production sets it.'
          )}
        </Empty>
      </div>
    );
  return (
    <div className="page">
      <Problem error={files.error} />
      <nav className="tabs mb-1 d-flex align-items-center" aria-label="line guides">
        {all.map((g) => (
          <button key={g.id} type="button" aria-pressed={g.id === kept?.id} onClick={() => show(g.id)}>
            {g.guide.name}
          </button>
        ))}
        {fresh && (
          <button type="button" aria-pressed>
            New guide
          </button>
        )}
        <span className="ms-auto d-flex gap-3 align-items-center">
          {fresh && all.length > 0 && (
            <button
              type="button"
              className="btn-word"
              onClick={() => {
                localStorage.removeItem(draft);
                show(all[0]?.id ?? '');
              }}
            >
              Discard new guide
            </button>
          )}
          <Dropdown align="end">
            <Dropdown.Toggle as="button" type="button" className="btn-word" id="guides-more">
              New, copy, file
            </Dropdown.Toggle>
            <Dropdown.Menu>
              {lead && <Dropdown.Item onClick={() => begin(FIRST)}>New guide</Dropdown.Item>}
              {lead && kept && <Dropdown.Item onClick={() => begin({ ...kept.guide, name: `${kept.guide.name}, copy` })}>Copy this guide</Dropdown.Item>}
              {kept && <Dropdown.Item onClick={() => files.save(kept)}>Export this guide (JSON)</Dropdown.Item>}
              {lead && <Dropdown.Item onClick={files.choose}>Import guide from a file…</Dropdown.Item>}
            </Dropdown.Menu>
          </Dropdown>
          {files.field}
        </span>
      </nav>
      <GuideEditor key={kept?.id ?? `new ${begun}`} kept={kept} first={FIRST} onSaved={show} />
    </div>
  );
}
