"""Reading proposals from free text, as people write them in forms and mails, and writing them back.

`vocabulary` knows the words, `reader` puts them together; what is ambiguous or unknown is said, never dropped.
"""

from pontifex.core.ipsec.reading.reader import ProposalReading, read_proposals, write_proposals
from pontifex.core.ipsec.reading.word import Word, WordKind

__all__ = ["ProposalReading", "Word", "WordKind", "read_proposals", "write_proposals"]
