"""What a strike was, as its limb's course tells: learnt from what coaches said of others."""
