// The line guide: roles as lines at their weight, what is looked for, page and print; its versions; roles read off a model sheet.

import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Button } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { ArchiveIt } from '../parts/ArchiveIt';
import { useGuides } from '../parts/lists';
import { day, Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { GuideRules } from './GuideRules';
import { GuideVersions } from './GuideVersions';
import { ModelSheet } from './ModelSheet';
import { RoleTable } from './RoleTable';

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
  const params = { path: { production: production.id } };
  const client = useQueryClient();
  const guides = useGuides();
  const kept = guides.data?.[0];
  const [guide, setGuide] = useState<Guide | null>(null);
  const [past, setPast] = useState<Guide[]>([]);
  const [error, setError] = useState<unknown>(null);
  const [sheet, setSheet] = useState(false);
  const key = `guide-${production.id}`;
  useEffect(() => {
    if (guide || !guides.data) return;
    const left = localStorage.getItem(key);
    setGuide(left ? JSON.parse(left) : (kept?.guide ?? null));
  }, [guides.data, guide, kept, key]);
  const unsaved = !!guide && JSON.stringify(guide) !== JSON.stringify(kept?.guide ?? null);
  useEffect(() => {
    if (guide && unsaved) localStorage.setItem(key, JSON.stringify(guide));
    else if (guide) localStorage.removeItem(key);
  }, [guide, unsaved, key]);
  if (guides.isLoading) return <Loading what="the guides" />;
  const change = (g: Guide) => {
    if (guide) setPast([...past, guide]);
    setGuide(g);
  };
  const save = async () => {
    if (!guide) return;
    setError(null);
    try {
      if (kept)
        await take(
          api.POST('/api/v1/productions/{production}/guides/{id}/versions', {
            params: { path: { production: production.id, id: kept.id } },
            body: { guide, from_version: kept.version },
          }),
        );
      else await take(api.POST('/api/v1/productions/{production}/guides', { params, body: guide }));
      localStorage.removeItem(key);
      // What is kept is what the server says: it fills in what was left out.
      const again = await guides.refetch();
      setGuide(again.data?.find((g) => !kept || g.id === kept.id)?.guide ?? guide);
      setPast([]);
    } catch (e) {
      setError(e);
      await client.invalidateQueries({ queryKey: ['guides'] });
    }
  };
  if (!guide)
    return (
      <div className="page">
        <Head title="No line guide yet" />
        <Problem error={guides.error} />
        <Empty title="The guide says what lines must weigh">
          {lead ? <Button onClick={() => setGuide(FIRST)}>Start with one role</Button> : 'A lead of this production sets it.'}
        </Empty>
      </div>
    );
  return (
    <div className="page">
      <Head
        title={guide.name}
        says={
          <>
            page {guide.page.width_px}×{guide.page.height_px} px · {guide.finish} finish ·{' '}
            {kept ? `version ${kept.version} by ${kept.by}, ${day(kept.at)}` : 'not saved yet'}
            {unsaved && <b style={{ color: 'var(--warn)' }}> · changed, not saved</b>}
          </>
        }
      >
        <Button
          variant="paper"
          disabled={!past.length}
          onClick={() => {
            setGuide(past[past.length - 1] ?? guide);
            setPast(past.slice(0, -1));
          }}
        >
          Undo
        </Button>
        <Button disabled={!unsaved || !lead} onClick={save}>
          Save (adds version {(kept?.version ?? 0) + 1})
        </Button>
      </Head>
      <Problem error={error} />
      {!lead && <div className="notice">Only a lead of this production may change the guide.</div>}
      <div style={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 168px', gap: 16, alignItems: 'start' }}>
        <div>
          <RoleTable guide={guide} lead={lead} onChange={change} />
          {lead && (
            <Button variant="paper" size="sm" className="mt-2 ms-2" aria-expanded={sheet} onClick={() => setSheet(!sheet)}>
              Roles from a model sheet
            </Button>
          )}
          {sheet && lead && <ModelSheet guide={guide} onRole={(r) => change({ ...guide, roles: [...guide.roles, r] })} />}
          <GuideRules guide={guide} lead={lead} onChange={change} />
        </div>
        {kept && <GuideVersions id={kept.id} current={kept.version} guide={guide} onTake={lead ? change : undefined} />}
      </div>
      {kept && (
        <div className="mt-3">
          <ArchiveIt kind="guides" id={kept.id} name={kept.guide.name} />
        </div>
      )}
    </div>
  );
}
