// What of a delivery can be downloaded.
import { Dropdown } from 'react-bootstrap';

/** So many artists are named. */
const NAMED = 8;

/** `returned`: the artists to whom something was returned. */
export function DownloadMenu({ url, returned }: { url: string; returned: string[] }) {
  return (
    <Dropdown>
      <Dropdown.Toggle variant="paper">Download</Dropdown.Toggle>
      <Dropdown.Menu>
        {returned.length > 0 && (
          <>
            <Dropdown.Item href={`${url}/notes`} download="notes.zip">
              Notes for {returned.length === 1 ? '1 artist' : `${returned.length} artists`} (PDF each, ZIP)
            </Dropdown.Item>
            {returned.slice(0, NAMED).map((artist) => (
              <Dropdown.Item key={artist} href={`${url}/notes/${encodeURIComponent(artist)}`} download={`notes-${artist}.pdf`}>
                Notes for {artist} (PDF)
              </Dropdown.Item>
            ))}
            <Dropdown.Divider />
          </>
        )}
        {(
          [
            ['line-check', 'Findings as JSON', 'line-check.json'],
            ['out/findings.csv', 'Findings as CSV', 'findings.csv'],
            ['out/overlays-svg.zip', 'Overlays of all as SVG', 'overlays-svg.zip'],
            ['out/overlays-png.zip', 'Overlays of all as PNG', 'overlays-png.zip'],
          ] as const
        ).map(([what, says, file]) => (
          <Dropdown.Item key={what} href={`${url}/${what}`} download={file}>
            {says}
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
