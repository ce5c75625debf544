/** Cells on the clipboard, as spreadsheets write them: tabs between cells, line ends between rows. */
import Papa from 'papaparse'

export const clipboardText = {
  of: (rows: string[][]): string => Papa.unparse(rows, { delimiter: '\t', newline: '\n' }),
  read: (text: string): string[][] =>
    Papa.parse<string[]>(text.replace(/\r?\n$/, ''), { delimiter: '\t' }).data,
}
