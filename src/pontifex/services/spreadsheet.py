"""Spreadsheet files as text: what a person would get by copying the cells; and rows of text as such a file.

What reads and writes the format is loaded where it is used: it is slow to load, and most sessions touch no spreadsheet.
"""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Final

from pydantic import BaseModel, Field

from pontifex.core.errors import NotAccepted

if TYPE_CHECKING:
    from openpyxl import Workbook

MOST_ROWS: Final = 100_000
MOST_COLUMNS: Final = 64
_MOST_UNPACKED: Final = 200_000_000  # octets; a small file can hold very much
_MOST_RATIO: Final = 200
_MOST_BESIDE_SHEETS: Final = 8_000_000  # octets of anything but sheets, such as the texts that cells share


class UnreadableSpreadsheet(NotAccepted):
    """A file that is no spreadsheet, or one too large."""

    title = "This is no spreadsheet"


class SpreadsheetText(BaseModel):
    """The cells of a spreadsheet as text, parted by tabs."""

    text: str = Field(title="Text")


def read_spreadsheet(content: bytes) -> SpreadsheetText:
    """Return the cells of the first sheet with any. Raise UnreadableSpreadsheet."""
    return SpreadsheetText(text=spreadsheet_text(content))


def spreadsheet_text(content: bytes) -> str:
    """Return the cells of the first sheet with any, parted by tabs. Raise UnreadableSpreadsheet."""
    from openpyxl import load_workbook

    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            entries = archive.infolist()
        unpacked = sum(entry.file_size for entry in entries)
        beside = max((entry.file_size for entry in entries if not entry.filename.startswith("xl/worksheets/")), default=0)
        if beside > _MOST_BESIDE_SHEETS:
            most = f"{beside / 1e6:.0f} MB of text; {_MOST_BESIDE_SHEETS / 1e6:.0f} MB can be read at once"
            raise UnreadableSpreadsheet(f"this file holds {most}: copy the cells that matter and paste them")
        if unpacked > min(_MOST_UNPACKED, max(len(content), 10_000) * _MOST_RATIO):
            raise UnreadableSpreadsheet("this file unpacks to more than a table of addresses can be")
        workbook = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
    except UnreadableSpreadsheet:
        raise
    except Exception as error:
        raise UnreadableSpreadsheet(f"this is no XLSX file: {type(error).__name__}") from None
    try:
        return _cells(workbook)
    except UnreadableSpreadsheet:
        raise
    except Exception as error:
        raise UnreadableSpreadsheet(f"a sheet of this file can't be read: {type(error).__name__}") from None
    finally:
        workbook.close()


def _cells(workbook: Workbook) -> str:
    for sheet in workbook.worksheets:
        text = io.StringIO()
        writer = csv.writer(text, delimiter="\t", lineterminator="\n")
        filled = 0
        for number, row in enumerate(sheet.iter_rows(values_only=True, max_col=MOST_COLUMNS), 1):
            if number > MOST_ROWS:
                raise UnreadableSpreadsheet(f"the sheet has more than {MOST_ROWS} rows")
            cells = ["" if cell is None else str(cell).strip() for cell in row]
            while cells and not cells[-1]:
                cells.pop()
            filled += bool(cells)
            writer.writerow(cells)
        if filled:
            return text.getvalue()
    return ""


def written_spreadsheet(sheets: Mapping[str, Sequence[Sequence[str]]]) -> bytes:
    """Return rows of text as a spreadsheet, by the names of its sheets. No cell is a formula."""
    from openpyxl import Workbook

    workbook = Workbook()
    workbook.remove(workbook.worksheets[0])
    for name, rows in sheets.items():
        sheet = workbook.create_sheet(name)
        for number, row in enumerate(rows, 1):
            for column, text in enumerate(row, 1):
                sheet.cell(number, column, text).data_type = "s"
        for letter, width in zip("ABC", (32, 64, 40), strict=True):
            sheet.column_dimensions[letter].width = width
    content = io.BytesIO()
    workbook.save(content)
    return content.getvalue()
