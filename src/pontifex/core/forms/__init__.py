"""A partner's form: read line by line into the fields of the end that it describes; what could be meant in two ways is asked."""

from pontifex.core.forms.form import FormLine, FormRead, LineState, read_form

__all__ = ["FormLine", "FormRead", "LineState", "read_form"]
