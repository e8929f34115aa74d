import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import type { RenderChoice, RenderedFile } from '@sober-prism/engine'
import { signed } from '../format'
import { download } from '../jobs/download'

interface RenderedFilesProps {
  readonly files: readonly RenderedFile[]
  readonly bits: RenderChoice['bits']
}

/** What was rendered last, with its loudness and peak, to be saved again. */
export function RenderedFiles({ files, bits }: RenderedFilesProps) {
  if (files.length === 0) return null
  const figure = (value: number | null) => (value === null ? '–' : signed(value))
  const isOver = (file: RenderedFile) => (file.truePeakDbtp ?? -1) > 0
  return (
    <>
      <Table aria-label="Rendered files">
        <TableHead>
          <TableRow>
            <TableCell>File</TableCell>
            <TableCell align="right">LUFS</TableCell>
            <TableCell align="right">dBTP</TableCell>
            <TableCell>Download</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {files.map((file) => (
            <TableRow key={file.name}>
              <TableCell>{file.name}</TableCell>
              <TableCell align="right">{figure(file.lufs)}</TableCell>
              <TableCell align="right">
                <Typography
                  component={isOver(file) ? 'strong' : 'span'}
                  color={isOver(file) ? 'warning' : undefined}
                >
                  {figure(file.truePeakDbtp)}
                </Typography>
              </TableCell>
              <TableCell align="right">
                <Button
                  variant="text"
                  aria-label={`Download ${file.name}`}
                  onClick={() => download(file.name, file.blob)}
                >
                  Download
                </Button>
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      {files.map(
        ({ name, normalised }) =>
          normalised && (
            <Typography key={name} color="textSecondary">
              {name}: {normalised.gainDb > 0 ? '+' : ''}
              {signed(normalised.gainDb)} dB applied
              {normalised.heldByPeak && '; the peak limit kept it below target'}.
            </Typography>
          ),
      )}
      {files.some(isOver) && (
        <Typography color="warning">
          True peak above 0 dBTP:{' '}
          {bits === 24
            ? 'samples above full scale are clipped at 24 bit'
            : 'may clip in playback or conversion'}
          . Lower the mix output.
        </Typography>
      )}
    </>
  )
}
