"""What an app is really called: shipped apps, mentions, disagreements, what stays unresolved."""
