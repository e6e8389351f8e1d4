"""Stand-ins that ship with the tool: what a store answers to an upload. Each is a simulation, and says so."""
