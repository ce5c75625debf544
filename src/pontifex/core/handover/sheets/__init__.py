"""Sheets: what is to be entered at an end of a tunnel, in the order in which devices ask, as a page, Markdown or JSON."""

from pontifex.core.handover.sheets.sheet import Sheet, sheet
from pontifex.core.handover.sheets.written import sheet_html, sheet_markdown

__all__ = ["Sheet", "sheet", "sheet_html", "sheet_markdown"]
