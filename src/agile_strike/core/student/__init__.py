"""The student behind a strike: clocks, striking limb, trunk and feet, from units worn on the body."""
