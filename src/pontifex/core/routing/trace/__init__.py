"""What a gateway decides about a flow, and where that leads, hop by hop, there and back."""
