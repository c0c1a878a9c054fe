"""The live worker: packets in, provisional strikes out."""
