/* A second process that brings devices to rest when the first one dies without a word. */
#ifndef PORTS_SERIAL_GUARDIAN_H
#define PORTS_SERIAL_GUARDIAN_H

#include "device.h"

typedef struct guardian {
    int pid, wire; /* 0: there is none */
} guardian;

/* Begins it, before the process has a second thread and before the devices are opened. It lives until guardian_end(),
 * or until this process is gone. */
bool guardian_begin(guardian *g, const device *d, unsigned devices, GError **error);

/* All is at rest: it leaves. */
void guardian_end(guardian *g);

#endif
