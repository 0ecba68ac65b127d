"""What a cavity is restored with: peers behind one protocol, none of which knows another."""
