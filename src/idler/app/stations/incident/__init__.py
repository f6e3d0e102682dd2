"""The incident page: over the stage when something stopped the machine, with its last seconds and what they tell."""
