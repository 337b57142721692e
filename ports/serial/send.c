/* Orders to a device: what the thread that ticks sends, and the ways to rest. */
#include "device.h"

#include "words.h"

#include <errno.h>
#include <poll.h>
#include <string.h>
#include <unistd.h>

#define STUCK_NS  1000000000u /* one that takes nothing for so long is as good as away */
#define FINISH_MS 300         /* for what is still on its way at the end */

static bool is_due(const device *d, const device_actuator *a, float value, uint64_t now_ns)
{
    const double every = a->item->value[SENDS_EVERY];
    return a->sent_ns == 0 || value != a->value || a->openings != atomic_load(&d->openings) ||
           (every > 0.0 && (double)(now_ns - a->sent_ns) >= every * 1e9);
}

/* Also into a device that takes nothing for the moment: the newest value goes out when it does again. */
rgp_status device_write(device *d, device_actuator *a, float value, uint64_t now_ns)
{
    if (!atomic_load(&d->ready) || (d->stuck_ns && now_ns - d->stuck_ns > STUCK_NS)) {
        a->waits = false;
        a->sent_ns = 0;
        return RGP_E_CHANNEL;
    }
    if (is_due(d, a, value, now_ns)) {
        a->value = value;
        a->waits = true;
    }
    return RGP_OK;
}

static void put_out(device *d, uint64_t now_ns)
{
    for (unsigned i = 0; i < d->actuators; i++) {
        device_actuator *a = &d->actuator[i];
        char line[ORDER_MOST];
        if (a->waits) {
            const gsize length = order_compose(a->item, a->is_switch, d->line_end, a->value, line);
            if (d->out_length + length > DEVICE_OUT) {
                return;
            }
            memcpy(d->out + d->out_length, line, length);
            d->out_length += length;
            a->waits = false;
            a->sent_ns = now_ns;
            a->openings = atomic_load(&d->openings);
        }
    }
}

/* Bytes that are not taken stay for the next tick. */
static void send_out(device *d, int fd, uint64_t now_ns)
{
    const ssize_t sent = write(fd, d->out, d->out_length);
    if (sent > 0) {
        d->out_length -= (gsize)sent;
        memmove(d->out, d->out + sent, d->out_length);
    }
    d->stuck_ns = d->out_length == 0 ? 0 : d->stuck_ns ? d->stuck_ns : now_ns;
}

static bool has_orders(const device *d)
{
    bool has = d->out_length > 0;
    for (unsigned i = 0; i < d->actuators; i++) {
        has |= d->actuator[i].waits;
    }
    return has;
}

/* While the other thread has the lock, orders wait for the next tick. Of a device that has gone away, what was on its
 * way to it is forgotten. */
void device_send(device *d, uint64_t now_ns)
{
    if (!has_orders(d) || !g_mutex_trylock(&d->lock)) {
        return;
    }
    const int fd = atomic_load(&d->fd);
    if (fd < 0 || d->out_openings != atomic_load(&d->openings)) {
        d->out_openings = atomic_load(&d->openings);
        d->out_length = 0;
        d->stuck_ns = 0;
    }
    if (fd >= 0) {
        if (d->out_length == 0) {
            put_out(d, now_ns);
        }
        if (d->out_length > 0) {
            send_out(d, fd, now_ns);
        }
    }
    g_mutex_unlock(&d->lock);
}

void device_rest_now(const device *d)
{
    const int fd = atomic_load(&d->fd);
    if (fd >= 0) {
        const ssize_t ignored = write(fd, d->rest, strlen(d->rest));
        (void)ignored;
    }
}

void device_finish(device *d)
{
    struct pollfd at = {.fd = atomic_load(&d->fd), .events = POLLOUT};
    while (at.fd >= 0 && has_orders(d) && poll(&at, 1, FINISH_MS) > 0 && !(at.revents & (POLLHUP | POLLERR))) {
        device_send(d, 1);
    }
    device_rest_now(d);
}
