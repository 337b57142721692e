/* Frames on their way from the thread that ticks to the thread that records: one writer, one reader, no
 * lock. A full ring is a gap, never a wait. */
#ifndef RUNTIME_RING_H
#define RUNTIME_RING_H

#include "rigpulse/frame.h"

typedef struct rgp_ring rgp_ring;

rgp_ring *rgp_ring_new(size_t frame_bytes, uint32_t frames);
void rgp_ring_free(rgp_ring *ring);

/* The writer: a place for the next frame, its header cleared, or NULL when the ring is full; then hand it
 * over. */
rgp_frame *rgp_ring_begin(rgp_ring *ring);
void rgp_ring_commit(rgp_ring *ring);

/* The number of frames that wait, and the room for them. Of either side. */
uint32_t rgp_ring_waiting(const rgp_ring *ring);
uint32_t rgp_ring_room(const rgp_ring *ring);

/* The reader: the oldest frame, or NULL when there is none; then give its place back. */
const rgp_frame *rgp_ring_peek(rgp_ring *ring);
void rgp_ring_drop(rgp_ring *ring);

#endif
