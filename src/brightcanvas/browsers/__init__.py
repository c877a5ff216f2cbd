"""Real browsers, told what to do through the protocols that they speak."""
