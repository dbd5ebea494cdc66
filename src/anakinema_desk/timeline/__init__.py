"""The strip: the motion laid out along the driver."""
