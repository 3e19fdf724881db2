#!/usr/bin/env node
import '../dist/command/kleidon.js';
