// Trial pages: the list, and a new one from a rough.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { api, type Schemas, sendFiles, take, takeAll } from '../api/client';
import { ArchiveIt } from '../parts/ArchiveIt';
import { day, Empty, Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';
import { AskScale } from './AskScale';

export function Trials() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const may = useMayChange();
  const navigate = useNavigate();
  // The brush that came from the bench stays in hand on whichever page is opened.
  const [search] = useSearchParams();
  const brush = search.get('brush');
  const hand = brush ? `?brush=${encodeURIComponent(brush)}` : '';
  const client = useQueryClient();
  const list = useQuery({
    queryKey: ['trials', production.id],
    queryFn: () => takeAll((after) => take(api.GET('/api/v1/productions/{production}/trials', { params: { ...params, query: { after } } }))),
  });
  const guides = useQuery({ queryKey: ['guides', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/guides', { params })) });
  const [name, setName] = useState('');
  const [file, setFile] = useState<File | null>(null);
  // A rough that states no resolution: what it stands for is asked.
  const [asked, setAsked] = useState<Schemas['RoughView'] | null>(null);
  const guide = guides.data?.find((g) => g.guide.page.px_per_mm)?.guide ?? guides.data?.[0]?.guide;
  const add = async (rough: Schemas['RoughView'] | null, pxPerMm: number | null | undefined) => {
    const page = guide?.page;
    // The page is the rough's; without one, the guide's.
    const body = {
      name: name || file?.name.replace(/\.\w+$/, '') || 'Trial page',
      page: {
        width_px: rough?.width_px ?? page?.width_px ?? 1920,
        height_px: rough?.height_px ?? page?.height_px ?? 1080,
        px_per_mm: pxPerMm ?? page?.px_per_mm ?? 6,
        rough: rough?.sha256 ?? null,
        neighbours: [],
        strokes: [],
      },
    };
    const made = await take(api.POST('/api/v1/productions/{production}/trials', { params, body }));
    await client.invalidateQueries({ queryKey: ['trials'] });
    navigate(`/brushes/trials/${made.id}${hand}`);
  };
  const make = useMutation({
    mutationFn: async () => {
      const rough = file ? await sendFiles<Schemas['RoughView']>(`/api/v1/productions/${production.id}/roughs`, [file]) : null;
      if (rough && !rough.px_per_mm) setAsked(rough);
      else await add(rough, rough?.px_per_mm);
    },
  });
  const answer = useMutation({ mutationFn: (pxPerMm: number) => add(asked, pxPerMm) });
  if (list.isLoading) return <Loading what="the trial pages" />;
  return (
    <div className="page">
      <Head
        title={list.data?.length === 1 ? '1 trial page' : `${list.data?.length ?? 0} trial pages`}
        says="a brush shows what it is only in a drawing: ink over a rough, at the size that is delivered"
      >
        {brush && (
          <Link className="btn btn-paper" to={`/brushes/${brush}`}>
            Back to the bench
          </Link>
        )}
      </Head>
      <Problem error={list.error ?? make.error ?? answer.error} />
      {may && (
        <div className="card-plain mb-2 d-flex gap-2 align-items-end flex-wrap">
          <Form.Group controlId="rough" style={{ flex: '1 1 260px' }}>
            <Form.Label className="mb-0">Rough (PNG, JPEG)</Form.Label>
            <Form.Control
              size="sm"
              type="file"
              accept="image/png,image/jpeg"
              onChange={(e) => {
                setFile((e.target as HTMLInputElement).files?.[0] ?? null);
                setAsked(null);
              }}
            />
          </Form.Group>
          <Form.Group controlId="trial-name" style={{ flex: '1 1 200px' }}>
            <Form.Label className="mb-0">Name</Form.Label>
            <Form.Control size="sm" value={name} placeholder="as the rough" onChange={(e) => setName(e.target.value)} />
          </Form.Group>
          <Button disabled={make.isPending} onClick={() => make.mutate()}>
            {file ? 'Make trial page' : 'Make empty page'}
          </Button>
        </div>
      )}
      {asked && (
        <AskScale
          rough={asked}
          page={guide?.page}
          name={guide?.name}
          busy={answer.isPending}
          onScale={(v) => answer.mutate(v)}
          onCancel={() => setAsked(null)}
        />
      )}
      {list.data?.length === 0 ? (
        <Empty title="No trial page yet">Add a rough above; without one, the page is as large as the line guide’s.</Empty>
      ) : (
        <div className="lanes">
          {list.data?.map((t) => (
            <div key={t.id} className="lane" style={{ gridTemplateColumns: '320px 1fr auto' }}>
              <Link to={`/brushes/trials/${t.id}${hand}`} className="gutter text-decoration-none">
                <b>{t.name}</b>
              </Link>
              <div className="body px-3 py-2 tight">
                {t.strokes === 1 ? '1 stroke' : `${t.strokes} strokes`}{' '}
                <span className="soft">
                  {t.by}, {day(t.at)}
                </span>
              </div>
              <div className="px-3 py-2">
                <ArchiveIt kind="trials" id={t.id} name={t.name} />
              </div>
            </div>
          ))}
        </div>
      )}
    </div>
  );
}
