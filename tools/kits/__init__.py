"""Making the recorded kit that ships, and measuring what kits sound like."""
