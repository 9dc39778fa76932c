// What of a delivery can be downloaded.
import { Dropdown } from 'react-bootstrap';

export function DownloadMenu({ url }: { url: string }) {
  return (
    <Dropdown>
      <Dropdown.Toggle variant="paper">Download</Dropdown.Toggle>
      <Dropdown.Menu>
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
