// Deliveries: what came in, and taking in a new one.

import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { Link, useNavigate } from 'react-router';
import { api, pathOf, sendFiles, take } from '../api/client';
import { useGuides } from '../parts/lists';
import { day, Empty, Head, Loading, Problem } from '../parts/states';
import { isTable, tableText } from '../parts/table';
import { useMayChange, useOpen } from '../session';
import { DeliveryStrip } from './DeliveryStrip';
import { type Known, ManifestFile, NamesPreview } from './HowKnown';

/** What would be checked: so many drawings, and so many archives of more. */
function counted(drawings: number, zips: number) {
  const of = (n: number, one: string, many: string) => (n === 0 ? [] : [n === 1 ? `1 ${one}` : `${n} ${many}`]);
  return [...of(drawings, 'drawing', 'drawings'), ...of(zips, 'ZIP', 'ZIPs')].join(' and ');
}

/** So many deliveries come at a time. */
const PAGE = 100;

export function Checks() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const may = useMayChange();
  const guides = useGuides();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [files, setFiles] = useState<File[]>([]);
  const [name, setName] = useState('');
  const [known, setKnown] = useState<Known>({ pattern: '{shot}_{artist}_{drawing}', csv: null, rows: {} });
  const [error, setError] = useState<unknown>(null);
  const [begun, setBegun] = useState<string | null>(null);
  const [sent, setSent] = useState<number | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const deliveries = useInfiniteQuery({
    queryKey: ['deliveries', production.id],
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam }) => take(api.GET('/api/v1/productions/{production}/deliveries', { params: { ...params, query: { before: pageParam } } })),
    getNextPageParam: (page) => (page.length < PAGE ? undefined : page[0]?.id),
  });
  const drop = useDropzone({
    accept: {
      'image/png': [],
      'image/tiff': ['.tif', '.tiff'],
      'image/jpeg': ['.jpg', '.jpeg'],
      'image/svg+xml': ['.svg'],
      'application/zip': ['.zip'],
      'image/openraster': ['.ora'],
      'text/csv': ['.csv', '.tsv'],
    },
    onDrop: async (came, refused) => {
      const accepted = came.filter((f) => !isTable(f));
      const [table] = came.filter(isTable);
      setError(
        refused.length
          ? new Error(`${refused.length} of the files are no drawings; PNG, TIFF, JPEG, SVG, OpenRaster and ZIP are read, and a manifest as CSV.`)
          : null,
      );
      setFiles([...files, ...accepted]);
      if (table) setKnown({ ...known, csv: await tableText(table) });
      setName((n) => n || `Delivery of ${new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long' })}`);
    },
  });
  if (deliveries.isLoading || guides.isLoading) return <Loading what="the deliveries" />;
  const guide = guides.data?.find((g) => g.id === chosen) ?? guides.data?.[0];
  const send = async () => {
    if (!guide) return;
    setError(null);
    setSent(0);
    try {
      // After a broken upload the same delivery is gone on with: what is there already is not added again.
      const body = { name, guide_id: guide.id, pattern: known.pattern, csv: known.csv };
      const made = begun ?? (await take(api.POST('/api/v1/productions/{production}/deliveries', { params, body }))).id;
      setBegun(made);
      // A few at a time: the first are being measured while the last are still on their way.
      for (let i = 0; i < files.length; i += 6) {
        await sendFiles(`/api/v1/productions/${production.id}/deliveries/${made}/drawings`, files.slice(i, i + 6));
        setSent(Math.min(i + 6, files.length));
      }
      await client.invalidateQueries({ queryKey: ['deliveries'] });
      navigate(`/checks/${made}`);
    } catch (e) {
      setError(e);
      setSent(null);
    }
  };
  /** The simulated delivery, with a guide of its own, to see what a check says. */
  const simulated = async () => {
    setError(null);
    setSent(0);
    try {
      const url = `/api/v1/productions/${production.id}/stand-ins`;
      const [zip, own] = await Promise.all([
        fetch(`${url}/delivery`).then((r) => r.blob()),
        take(api.GET('/api/v1/productions/{production}/stand-ins/delivery-guide', { params })),
      ]);
      const { id: guide_id } = await take(api.POST('/api/v1/productions/{production}/guides', { params, body: own }));
      const body = { name: 'Simulated delivery', guide_id, pattern: '', csv: null };
      const { id } = await take(api.POST('/api/v1/productions/{production}/deliveries', { params, body }));
      await sendFiles(`/api/v1/productions/${production.id}/deliveries/${id}/drawings`, [new File([zip], 'simulated.zip', { type: 'application/zip' })]);
      await client.invalidateQueries();
      navigate(`/checks/${id}`);
    } catch (e) {
      setError(e);
      setSent(null);
    }
  };
  const names = files.filter((f) => !/\.zip$/i.test(f.name)).map(pathOf);
  const noneAtHand = production.part === 'lead' && (
    <div className="tight soft mt-1">
      No drawings at hand?{' '}
      <button type="button" className="btn-word" disabled={sent !== null} onClick={simulated}>
        {sent === null ? 'Check a simulated delivery' : 'Making drawings…'}
      </button>{' '}
      of 24 drawings, some with faults, against the guide that they are of.
    </div>
  );
  // The newest page came first; on the page the oldest stands first, as deliveries came in.
  const list = [...(deliveries.data?.pages ?? [])].reverse().flat();
  const back = list.reduce((n, d) => n + d.to_return, 0);
  return (
    <div className="page">
      <Head
        title={back === 1 ? '1 drawing needs fixes' : back ? `${back} drawings need fixes` : 'No drawing needs fixes'}
        says={`${deliveries.hasNextPage ? 'the newest ' : ''}${list.length} ${list.length === 1 ? 'delivery' : 'deliveries'}`}
      />
      <Problem error={error ?? deliveries.error} />
      {!guide ? (
        <Empty title="A check needs a guide">
          <Link to="/guides">Set the guide first</Link>: what each line role weighs.
          {list.length === 0 && noneAtHand}
        </Empty>
      ) : (
        may && (
          <div className="mb-3">
            <div {...drop.getRootProps({ className: `drop ${drop.isDragActive ? 'over' : ''}` })}>
              <input {...drop.getInputProps()} aria-label="drawings" />
              {files.length
                ? `${files.length} drawings chosen; drop more to add them`
                : `Drop a delivery of drawings here, or click to choose: PNG, TIFF, JPEG, SVG, OpenRaster or ZIP, several at once. They are checked against ${guide.guide.name}, version ${guide.version}`}
            </div>
            {files.length === 0 && list.length === 0 && noneAtHand}
            {files.length > 0 && (
              <div className="card-plain mt-2">
                <div className="d-flex gap-3 align-items-end mb-2 flex-wrap">
                  <Form.Group controlId="delivery-name" style={{ flex: '1 1 260px' }}>
                    <Form.Label className="mb-0">Name of the delivery</Form.Label>
                    <Form.Control size="sm" value={name} onChange={(e) => setName(e.target.value)} />
                  </Form.Group>
                  <Form.Group controlId="pattern" style={{ flex: '1 1 260px' }}>
                    <Form.Label className="mb-0">Name pattern</Form.Label>
                    <Form.Control size="sm" value={known.pattern} onChange={(e) => setKnown({ ...known, pattern: e.target.value })} />
                  </Form.Group>
                  {(guides.data?.length ?? 0) > 1 && (
                    <Form.Group controlId="guide">
                      <Form.Label className="mb-0">Line guide</Form.Label>
                      <Form.Select size="sm" value={guide.id} disabled={!!begun} onChange={(e) => setChosen(e.target.value)}>
                        {guides.data?.map((g) => (
                          <option key={g.id} value={g.id}>
                            {g.guide.name}
                          </option>
                        ))}
                      </Form.Select>
                    </Form.Group>
                  )}
                  <ManifestFile known={known} onKnown={setKnown} />
                  <Button
                    variant="paper"
                    disabled={sent !== null}
                    onClick={() => {
                      setFiles([]);
                      setBegun(null);
                    }}
                  >
                    Choose others
                  </Button>
                  <Button disabled={sent !== null} onClick={send}>
                    Check {counted(names.length, files.length - names.length)}
                  </Button>
                </div>
                {sent !== null && <progress value={sent} max={files.length} style={{ width: '100%' }} aria-label="drawings sent" />}
                <NamesPreview files={names} guide={guide?.id} known={known} />
              </div>
            )}
          </div>
        )
      )}
      {deliveries.hasNextPage && (
        <button type="button" className="btn-word tight" disabled={deliveries.isFetchingNextPage} onClick={() => void deliveries.fetchNextPage()}>
          Show older deliveries
        </button>
      )}
      {list.length > 0 && (
        <table className="plain-table">
          <thead>
            <tr>
              <th>Delivery</th>
              <th>Added</th>
              <th>Drawings</th>
              <th>Measured</th>
              <th>To decide</th>
              <th>Needs fixes</th>
              <th>Not readable</th>
            </tr>
          </thead>
          <tbody>
            {list.map((d) => (
              <tr key={d.id}>
                <td>
                  <Link to={`/checks/${d.id}`} className="fw-semibold">
                    {d.name}
                  </Link>
                  <DeliveryStrip id={d.id} of={d.done} />
                </td>
                <td>{day(d.at)}</td>
                <td>{d.drawings}</td>
                <td>{d.done}</td>
                <td>{d.undecided || '–'}</td>
                <td>{d.to_return || '–'}</td>
                <td>{d.failed || '–'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
