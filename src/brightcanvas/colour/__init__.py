"""Light and colour: computing with pixels as amounts of light."""
