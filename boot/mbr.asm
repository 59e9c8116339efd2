; The code of the master boot record.
;
; Memory map
;   0000:0600-07FF  this sector, moved here
;   0000:7C00-7DFF  where the firmware put it, and where the boot sector goes
;   0000:7C00 down  stack
; Called by  the firmware, at 0000:7C00, with the drive in DL.
; Calls      the boot sector of the active partition, at 0000:7C00, with the drive in DL and DS:SI at its table entry.
; Survives   DL. SI and BP point at the table entry from the moment it is found.
; Room       440 bytes; the disk signature and the table follow and are not part of this file.

        bits 16
        cpu 386
        org 0x600

SECTOR  equ 0x7C00
TABLE   equ 0x600 + 0x1BE

start:
        cli
        xor ax, ax
        mov ss, ax
        mov sp, SECTOR
        mov ds, ax
        mov es, ax
        sti
        cld
        mov si, SECTOR
        mov di, 0x600
        mov cx, 256
        rep movsw
        jmp 0:moved

moved:
        mov si, TABLE
        xor bp, bp
        mov cx, 4
.slot:
        mov al, [si]
        cmp al, 0x80
        je .active
        test al, al
        jz .next
        mov si, bad_table
        jmp stop
.active:
        test bp, bp
        jz .first
        mov si, two_active
        jmp stop
.first:
        mov bp, si
        mov al, [si + 4]
        and al, 0x7F                    ; 05 and 85
        cmp al, 5
        je .extended
        cmp al, 0x0F
        jne .next
.extended:                              ; it has no boot sector to jump to
        mov si, bad_table
        jmp stop
.next:
        add si, 16
        loop .slot
        test bp, bp
        jnz read
        mov si, none_active
        jmp stop

; Reads the boot sector: by sector number where the firmware can, else by cylinder, head and sector.
read:
        mov di, 5                       ; attempts
.again:
        mov ah, 0x41
        mov bx, 0x55AA
        push dx
        int 0x13
        pop dx
        jc .by_geometry
        cmp bx, 0xAA55
        jne .by_geometry
        test cl, 1
        jz .by_geometry
        push dword 0
        push dword [bp + 8]
        push word 0
        push word SECTOR
        push word 1
        push word 16
        mov si, sp
        mov ah, 0x42
        push dx
        int 0x13
        pop dx
        lea sp, [si + 16]
        jnc check
        jmp .failed
.by_geometry:
        push dx
        push di
        mov ah, 8
        xor di, di
        mov es, di
        int 0x13
        pop di
        jc .no_geometry
        and cx, 63                      ; sectors in a track
        movzx ebx, dh
        inc bx                          ; heads
        mov eax, [bp + 8]
        xor edx, edx
        movzx ecx, cx
        div ecx
        inc dx
        push dx                         ; sector
        xor edx, edx
        div ebx                         ; eax cylinder, dx head
        pop cx
        cmp eax, 1023
        ja .too_far
        mov ch, al
        shl ah, 6
        or cl, ah
        mov bl, dl
        pop dx
        mov dh, bl
        push dx
        xor bx, bx
        mov es, bx
        mov bx, SECTOR
        mov ax, 0x0201
        int 0x13
        jmp .no_geometry
.too_far:
        stc
.no_geometry:
        pop dx
        jnc check
.failed:
        xor ah, ah
        push dx
        int 0x13                        ; reset, and try again
        pop dx
        dec di
        jnz .again
        mov si, unreadable
        jmp stop

check:
        cmp word [SECTOR + 0x1FE], 0xAA55
        mov si, no_sector
        jne stop
        mov si, bp
        jmp 0:SECTOR

; Prints the line at SI and stays.
stop:
        lodsb
        test al, al
        jz .wait
        mov bx, 7
        mov ah, 0x0E
        int 0x10
        jmp stop
.wait:
        hlt
        jmp .wait

none_active     db "keel: no active partition", 0
two_active      db "keel: more than one active partition", 0
bad_table       db "keel: bad partition table", 0
unreadable      db "keel: cannot read the boot sector", 0
no_sector       db "keel: no boot sector there", 0

%if ($ - $$) > 440
%error "the code does not fit"
%endif
        times 440 - ($ - $$) db 0
