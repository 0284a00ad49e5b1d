"""What requests carry. What answers carry are the services' own views."""
