;; The one loop that sees every byte of freed space, sixteen bytes at a time (WebAssembly 2.0, "Vector Instructions").
;; For each byte it says, in one bit each, whether
;;  - it is in the set *sizes* and the next byte in the set *firsts* (a record's header can begin here), and
;;  - it and the byte two further on are no more than $highest, and that one and the next, a size, are no less than 6 (a
;;    freeblock's header can begin here).
;; places.ts says what the sets are and looks closer where a bit is set. `npm run kernels` makes marks.wasm.ts of this.
;;
;; Memory: 0x00000 the bytes, at most 65,536 and 32 more that are read and not used
;;         0x10100 sizes, two tables of 16 bytes: bit h of table 0 at l says whether byte h*16+l is in the set, of table 1
;;                 whether (h+8)*16+l is
;;         0x10120 firsts, likewise
;;         0x10200 the marks, in twos of 4 bytes for each 16 bytes of which one has a mark: where those 16 begin, and their
;;                 marks: low half the headers, high half the blocks
(module
  (memory (export "memory") 2 2)

  ;; Marks the bytes in [$from, $to); $from is a multiple of 16. Nothing is called in the loop: a call costs more than it does.
  ;; Returns how many twos of marks there are.
  (func (export "mark") (param $from i32) (param $to i32) (param $highest i32) (result i32)
    (local $marks i32) (local $noted i32)
    (local $most v128) (local $bit v128) (local $nibble v128) (local $zero v128)
    (local $sizes v128) (local $sizes8 v128) (local $firsts v128) (local $firsts8 v128)
    (local $v v128) (local $next v128) (local $low v128) (local $sized v128) (local $size v128) (local $little v128)
    (local.set $most (i8x16.splat (local.get $highest)))
    (local.set $bit (v128.const i8x16 1 2 4 8 16 32 64 128 1 2 4 8 16 32 64 128))
    (local.set $nibble (i8x16.splat (i32.const 15)))
    (local.set $little (i8x16.splat (i32.const 5)))
    (local.set $sizes (v128.load (i32.const 0x10100)))
    (local.set $sizes8 (v128.load (i32.const 0x10110)))
    (local.set $firsts (v128.load (i32.const 0x10120)))
    (local.set $firsts8 (v128.load (i32.const 0x10130)))
    (block $done
      (loop $again
        (br_if $done (i32.ge_u (local.get $from) (local.get $to)))
        (local.set $v (v128.load (local.get $from)))
        (local.set $low (v128.and (local.get $v) (local.get $nibble)))
        (local.set $sized
          (i8x16.ne (local.get $zero)
            (v128.and
              (i8x16.swizzle (local.get $bit) (i8x16.shr_u (local.get $v) (i32.const 4)))
              (v128.bitselect
                (i8x16.swizzle (local.get $sizes8) (local.get $low))
                (i8x16.swizzle (local.get $sizes) (local.get $low))
                (i8x16.lt_s (local.get $v) (local.get $zero))))))
        (local.set $next (v128.load offset=1 (local.get $from)))
        (local.set $low (v128.and (local.get $next) (local.get $nibble)))
        (local.set $size (v128.load offset=2 (local.get $from)))
        (local.set $marks
          (i32.or
            (i8x16.bitmask
              (v128.and (local.get $sized)
                (i8x16.ne (local.get $zero)
                  (v128.and
                    (i8x16.swizzle (local.get $bit) (i8x16.shr_u (local.get $next) (i32.const 4)))
                    (v128.bitselect
                      (i8x16.swizzle (local.get $firsts8) (local.get $low))
                      (i8x16.swizzle (local.get $firsts) (local.get $low))
                      (i8x16.lt_s (local.get $next) (local.get $zero)))))))
            (i32.shl
              (i8x16.bitmask
                (v128.and
                  (i8x16.le_u (local.get $v) (local.get $most))
                  (v128.and
                    (i8x16.le_u (local.get $size) (local.get $most))
                    (v128.or
                      (i8x16.ne (local.get $size) (local.get $zero))
                      (i8x16.gt_u (v128.load offset=3 (local.get $from)) (local.get $little))))))
              (i32.const 16))))
        ;; Written in any case, and written over where there was no mark: that is quicker than to ask.
        (i32.store offset=0x10200 (local.get $noted) (local.get $from))
        (i32.store offset=0x10204 (local.get $noted) (local.get $marks))
        (local.set $noted (i32.add (local.get $noted) (i32.shl (i32.ne (local.get $marks) (i32.const 0)) (i32.const 3))))
        (local.set $from (i32.add (local.get $from) (i32.const 16)))
        (br $again)))
    (i32.shr_u (local.get $noted) (i32.const 3))))
