"""Files in and out: Motion-BIDS and flat tables. Units and clocks are converted here, once."""
