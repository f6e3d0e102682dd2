"""What a controller holds beside the draft: standing, sends that were begun, what somebody else has changed."""
