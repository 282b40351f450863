"""The user's own ONNX networks: inspected, stored and run in processes of their own."""
