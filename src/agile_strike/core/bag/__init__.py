"""The bag: from its unit's samples to contacts, and from contacts to strikes and their force."""
