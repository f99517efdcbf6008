package org.rainsieve.opcode;

/** One that is not carried out here: left out where it is optional, or handed on. */
record UnknownOpcode(Stored stored) implements Opcode {}
