# SPDX-License-Identifier: Apache-2.0
# Counts the instructions of a program on the simulated 8-bit core, from main to finished.
target sim
load
break main
run
set $steps = 0
set $end = (unsigned long)&finished
while (unsigned long)$pc != $end
  stepi
  set $steps = $steps + 1
end
print $steps
