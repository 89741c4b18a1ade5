// SPDX-License-Identifier: Apache-2.0
#pragma once

/// Marks what of the library others may link. A shared build hides all that no public header
/// declares.
#define TAMLO_API __attribute__((visibility("default")))
