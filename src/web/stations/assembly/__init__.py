"""Station: final assembly. The generated list, the signature, and the printed results."""
