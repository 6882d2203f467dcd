"""What control modules tell: fault codes and their structure, who answers when all are called."""
